"""What can be done with watched questions."""
