"""The parts of the Gather desk, one a file: sources, what was found, columns of a table, a catalogue, a record.

Takes: the session. Gives: widgets that show it and ask; the desk puts them together.
"""
