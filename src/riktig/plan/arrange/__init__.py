"""Which order of parts on the plate takes the least wire? A search over legal layouts, and the edit that takes its result.

Must not know findings or screens.
"""
