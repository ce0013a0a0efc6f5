"""The language models of the configuration as they stand, and whether they can be used."""
