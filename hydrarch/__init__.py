"""Hydrarch: draw a water line once; sizes, joints, cuts, clocks, tests and records follow from the drawing."""

__version__ = "0.1.0"
