"""Reading sources: the formats, and what their texts mean (dates, addresses, references).

Takes: files from strangers. Gives: raw records with provenance, and a list of problems; never half a file in silence.
"""
