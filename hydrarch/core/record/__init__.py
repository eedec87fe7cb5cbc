"""What was done: events, folded into the state of each joint; what to do where a joint went wrong."""
