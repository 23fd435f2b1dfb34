"""The six desks, one module each: what a stage shows and what can be decided there.

Takes: a Session. Gives: widgets that listen to it; each has a sentence on top that is the recipe of its stage.
"""
