"""Keeping jobs: SQLite through sqlite3, plain SQL, one module an aggregate, writes through one door."""
