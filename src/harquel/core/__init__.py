"""The computation. Knows no Django, no HTTP server, no terminal, no console."""
