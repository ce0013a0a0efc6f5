"""What people do with sources, one operation a file."""
