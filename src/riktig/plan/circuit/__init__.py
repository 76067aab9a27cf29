"""Which devices are there and which paths do they lie on? From the Job alone: starters, modules and supplies expanded into plain circuit.

Must not know parts, numbers, sizes or places.
"""
