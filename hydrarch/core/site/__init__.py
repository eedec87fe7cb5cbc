"""The plan in space: lengths and turns, what one water fills, risers, site marks, and whether pipe is fit for where it
lies.
"""
