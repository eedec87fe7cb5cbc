"""Old service to new with the house kept in water: what is opened when, and what each order does."""
