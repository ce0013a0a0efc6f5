"""What can be done with sendings."""
