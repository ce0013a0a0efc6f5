"""The command line: a file a command group, over HTTP through the client library."""
