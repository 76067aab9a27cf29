"""What is drawn in one piece, and on which sheet and lane does it stand? From the circuit, and what the ledger holds.

Must not know parts, numbers or places on the plate, nor draw.
"""
