"""Errors, units, quantities, identity, problems, graph walks, progress and the cache: what every other room stands on.

Imports nothing of ours.
"""
