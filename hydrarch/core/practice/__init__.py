"""The practice ground: exercises with no job at stake, judged by the geometry and rules of real joints."""
