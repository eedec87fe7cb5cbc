"""Procedures by method and school, set and cure times, the order of work, and the state of each joint."""
