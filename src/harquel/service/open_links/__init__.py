"""Open links: an answer or a casebook shown, for a time, to people without an account."""
