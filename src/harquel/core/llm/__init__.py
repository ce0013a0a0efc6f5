"""Language models: who they are (model.py) and how to talk to them, a wire protocol a file.

Nothing is loaded here: what computes on drafts knows models by name only, and needs no HTTP.
"""
