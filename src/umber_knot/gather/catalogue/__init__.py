"""Asking a catalogue that speaks SRU 2.0 or OAI-PMH 2.0.

Takes: an address and a query. Gives: the records as they came, as one source that any reader reads. Nothing is asked
unless the scholar asks.
"""
