"""The document: points, runs and what a crew chose for them; what points at what; reading documents of earlier formats;
a crew's own parts.
"""
