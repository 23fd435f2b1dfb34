"""The stages from records to report: what depends on what, the recipe, caching by content, and what changed.

Takes: a corpus, decisions and a recipe. Gives: the result of every stage, recomputing only what a change touches.
"""
