"""A line drawn by measure, as a crew says it with a tape in hand."""
