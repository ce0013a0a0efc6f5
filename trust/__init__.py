"""The measure of trust: drafts right and wrong, and what becomes of them."""
