"""What can be done with scans and the catalogs that they leave, an operation a file."""
