"""People, tokens and console sessions."""
