"""Ends and matings, the transition search, and the assembly of a whole plan."""
