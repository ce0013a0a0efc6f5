"""The way of a question, a step a file: what comes in front of everything else in the core."""
