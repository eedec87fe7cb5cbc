"""Sections, pressure tests, and the gates before pressure and before burying."""
