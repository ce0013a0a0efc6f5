"""Programs of their own, one an engine: the standard library, `frame` beside them, and one driver."""
