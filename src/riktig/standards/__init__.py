"""Published tables and formulas, one module per standard; the data lie beside them as CSV.

Every table here was written from memory of the edition named; none was checked against print.
"""
