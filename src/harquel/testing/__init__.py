"""What measures and tests share: sources without a service, a simulated model, one that follows a script, results
compared. It ships, so that whoever builds on the core can try what they build the same way.
"""
