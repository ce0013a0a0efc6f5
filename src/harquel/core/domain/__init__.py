"""Pure values: what the other parts hand to each other."""
