"""What everything that speaks HTTP to somebody else shares."""
