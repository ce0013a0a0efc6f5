"""What can be done with open links."""
