"""Circulation: ponds, tubs and tanks; what is safe, how often it turns over, what runs back, and what happens
if.
"""
