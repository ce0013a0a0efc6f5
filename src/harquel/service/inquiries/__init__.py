"""Inquiries: asked, worked on in the background, streamed, kept."""
