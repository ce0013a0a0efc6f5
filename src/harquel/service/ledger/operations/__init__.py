"""What can be done with the ledger, an operation a file."""
