"""The pages of Reconcile: suggestions one at a time, all spellings by hand, rules, and the ledger.

Each takes the session and shows and asks; what is suggested, applied or refused is computed elsewhere.
"""
