"""What can be done with the connections of sources, an operation a file."""
