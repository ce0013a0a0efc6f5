"""What people do with inquiries, one operation a file."""
