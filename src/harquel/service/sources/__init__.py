"""Sources: what is connected, its catalog, and reviews of statements."""
