"""Which part does each device need, and how thick is each conductor? From the circuit, the motors and the catalogue.

Must not know where anything stands, nor who is joined to whom.
"""
