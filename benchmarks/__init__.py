"""Figures of speed, each beside the baseline that it is divided by; none is a timed test."""
