"""One module a format, found by looking: NAME, ``sniff(head) -> confidence``, ``read(stream, report) -> records``.

Takes: a stream. Gives: raw records with provenance. Helpers that several formats share begin with an underscore.
"""
