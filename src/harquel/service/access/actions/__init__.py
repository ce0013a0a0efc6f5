"""What people do with tokens and sessions, one operation a file."""
