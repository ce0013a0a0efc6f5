"""What can be done with notes and policies, an operation a file."""
