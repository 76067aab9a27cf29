"""Which terminals are one potential, and what are potentials, devices, cables and strip terminals called? From circuit, uses and parts.

Must not choose parts, nor know sizes or places.
"""
