"""Questions that are asked again by themselves, and told to whom they matter."""
