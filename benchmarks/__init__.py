"""Speed and scale, each printed as a ratio measured in one run."""
