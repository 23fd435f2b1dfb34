"""Reading sources: one module per format, each with ``sniff(head)`` and ``read(lines, report)``.

Takes: files from strangers. Gives: raw records with provenance, and a list of problems; never half a file in silence.
"""
