"""The records: one SQLite file, one process that owns it, one thread that writes it."""
