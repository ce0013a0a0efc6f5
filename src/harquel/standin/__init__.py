"""Simulated outside world, shipped for the demo and the tests. Imports nothing of the rest."""
