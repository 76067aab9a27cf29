"""Where does everything stand on plate and door, and does it fit? From parts and strips, and what the ledger holds.

Must not know single wires.
"""
