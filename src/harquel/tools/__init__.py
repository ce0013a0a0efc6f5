"""Harquel by the Model Context Protocol: an adapter over the client, which decides nothing itself.

Whatever is asked here goes to the service over its HTTP contract with the token of whoever asks; what that token may
not do, no tool does. The same adapter serves `/mcp` of the service and `harquel tools --stdio`.
"""
