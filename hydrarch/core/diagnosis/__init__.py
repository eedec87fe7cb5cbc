"""What would explain what a crew reads: faults tried on the solved line, weighed, and the next look that tells most."""
