"""Which forms stand for the same entity: normalising, suggestions with reasons, decisions, the mapping they give.

Takes: mentions and the ledger. Gives: for every form its entity, and ranked suggestions of what else to merge.
"""
