"""Who is joined to whom, by which way, how long, how thick, in which cable? From potentials, places and sections.

Must not move anything, nor judge.
"""
