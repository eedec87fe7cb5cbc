"""Simulated stand-ins for outside devices, behind small protocols."""
