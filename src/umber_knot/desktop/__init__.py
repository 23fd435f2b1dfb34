"""The window: widgets that show results and ask for decisions; nothing is computed here.

Takes: a Session, which holds the study and hears from the worker processes. Gives: pictures, and commands back to it.
"""
