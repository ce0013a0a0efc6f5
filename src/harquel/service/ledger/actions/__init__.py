"""What people do with the ledger, one operation a file."""
