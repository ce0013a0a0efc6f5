"""What can be done with people and tokens, an operation a file."""
