"""From mentions to networks: who shares records, counted fully or fractionally, filtered in a fixed order.

Takes: a corpus, a resolution and the recipe's sentence. Gives: a network, what each filter left out, and evidence.
"""
