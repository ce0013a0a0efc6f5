"""The demo world: data, notes, policy and examples of a made-up ferry service."""
