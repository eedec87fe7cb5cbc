"""Choosing pipe sizes: by velocity and pressure, each with the limit that chose it."""
