"""Networks as arrays: the Network type, components, and files other programs read.

Takes: items and ties from relate. Gives: plain arrays of one value an item or a tie.
"""
