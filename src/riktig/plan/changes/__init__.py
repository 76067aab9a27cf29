"""What changes when a person decides otherwise? Edits that lead from one settled Job to the next, and a look ahead at one.

Must not draw, nor keep anything.
"""
