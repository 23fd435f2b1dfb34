"""What leaves the study: plates (SVG, PNG), tables, network files and the description of the method.

Takes: the results of all stages. Gives: files; the same study gives the same bytes.
"""
