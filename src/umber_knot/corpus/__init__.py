"""Records, mentions and forms, and the study file (SQLite) that holds them.

Takes: raw records from gather, decisions and recipe changes. Gives: a Corpus of plain arrays.
"""
