"""What drains take in and where they end: roofs' downpipes, waste through walls, connections, soakaways."""
