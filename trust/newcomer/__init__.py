"""The measure of what a newcomer gets; see __main__.py."""
