"""Repairs: what broke in what pipe, and every way to make it whole in the room there is."""
