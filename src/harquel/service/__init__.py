"""The service: Django and REST around the core. Wired to it in runtime.py and nowhere else."""
