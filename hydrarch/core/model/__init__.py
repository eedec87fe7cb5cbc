"""The line as solids: every fitting, pipe and body in its place, from the catalogue's own dimensions."""
