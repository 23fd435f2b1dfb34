"""Topics: clustering, its stability, comparison with an earlier grouping, and names.

Takes: a network and the recipe's grain and seed. Gives: the topic of each item, how sure it is, and what to call it.
"""
