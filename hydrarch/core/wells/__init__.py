"""Wells: the hole, its water, and the pipe that hangs in it."""
