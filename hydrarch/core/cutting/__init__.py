"""Take-offs, the cut list, nesting into sticks and coils, and the bill of materials."""
