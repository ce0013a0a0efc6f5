"""What can be done with casebooks."""
