"""What can be done with inquiries, an operation a file."""
