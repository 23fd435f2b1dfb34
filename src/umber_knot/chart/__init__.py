"""From a grouped network to a chart: layout, territories, palettes, label placement, a scene of plain shapes.

Takes: a network and its topics. Gives: positions in layout units, and for any view or plate a scene to be drawn.
"""
