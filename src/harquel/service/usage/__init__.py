"""What is paid for: each call of a language model with its tokens and its cost, and what a day may come to."""
