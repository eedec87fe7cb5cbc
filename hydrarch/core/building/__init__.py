"""House pipework: what runs together, hot water and who waits for it."""
