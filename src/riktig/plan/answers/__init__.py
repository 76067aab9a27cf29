"""What does somebody who reads a Plan want to know of it? Lookups, reasons and lists made from a Plan as it stands.

Must not change anything, nor be part of a Plan.
"""
