"""What can be done with examples, an operation a file."""
