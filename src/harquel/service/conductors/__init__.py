"""Processes that can be lost: reading, guard and review of one inquiry each, beside the process that holds the records.

A conductor (`process.py`) knows nothing but what it is sent: no key, no password, no descriptor of the records. What it
needs from outside it asks for over a pipe (`messages.py`), and `desk.py` answers on our side. `pool.py` lends them out,
ends one that oversteps, and makes a new one in its place.
"""
