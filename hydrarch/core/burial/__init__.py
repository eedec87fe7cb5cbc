"""What the ground does to pipe, and what has to be dug for it."""
