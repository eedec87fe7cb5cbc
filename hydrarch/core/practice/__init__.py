"""The practice ground: exercises on joints with no job at stake, judged from the same geometry and rules as real ones."""
