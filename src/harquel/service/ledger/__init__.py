"""The audit record: stored here, made and checked by the core."""
