"""Simulated stand-ins for outside devices, behind small protocols. None is needed yet."""
