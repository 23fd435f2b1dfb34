"""The description of the method: every number, choice, definition and source that a reviewer asks for."""

from __future__ import annotations

from collections import Counter

from umber_knot import __version__
from umber_knot.corpus.model import KIND_WORDS, Corpus
from umber_knot.relate.wording import DEFINED_BY, many, told
from umber_knot.report.measures import measure_lines
from umber_knot.report.subject import Subject

#: Topics of fewer items are only counted in the table of topics.
LISTED = 3

SOURCES = {
    "Newman 2001": "Newman, M. E. J. (2001). Scientific collaboration networks. II. Physical Review E 64, 016132.",
    "Small 1973": "Small, H. (1973). Co-citation in the scientific literature. Journal of the American Society for "
    "Information Science 24, 265–269.",
    "Kessler 1963": "Kessler, M. M. (1963). Bibliographic coupling between scientific papers. "
    "American Documentation 14, 10–25.",
    "Borgatti 1997": "Borgatti, S. P. & Everett, M. G. (1997). Network analysis of 2-mode data. "
    "Social Networks 19, 243–269.",
    "Serrano 2009": "Serrano, M. Á., Boguñá, M. & Vespignani, A. (2009). Extracting the multiscale backbone of complex "
    "weighted networks. PNAS 106, 6483–6488.",
    "Zitt 2000": "Zitt, M., Bassecoulard, E. & Okubo, Y. (2000). Shadows of the past in international cooperation. "
    "Scientometrics 47, 627–657.",
    "Salton 1983": "Salton, G. & McGill, M. J. (1983). Introduction to Modern Information Retrieval. McGraw-Hill.",
    "Callon 1991": "Callon, M., Courtial, J. P. & Laville, F. (1991). Co-word analysis. Scientometrics 22, 155–205.",
    "Traag 2019": "Traag, V. A., Waltman, L. & van Eck, N. J. (2019). From Louvain to Leiden. "
    "Scientific Reports 9, 5233.",
    "Traag 2011": "Traag, V. A., Van Dooren, P. & Nesterov, Y. (2011). Narrow scope for resolution-limit-free "
    "community detection. Physical Review E 84, 016114.",
    "Reichardt 2006": "Reichardt, J. & Bornholdt, S. (2006). Statistical mechanics of community detection. "
    "Physical Review E 74, 016110.",
    "Hubert 1985": "Hubert, L. & Arabie, P. (1985). Comparing partitions. Journal of Classification 2, 193–218.",
    "Dunning 1993": "Dunning, T. (1993). Accurate methods for the statistics of surprise and coincidence. "
    "Computational Linguistics 19, 61–74.",
    "Fruchterman 1991": "Fruchterman, T. M. J. & Reingold, E. M. (1991). Graph drawing by force-directed placement. "
    "Software: Practice and Experience 21, 1129–1164.",
    "Noack 2009": "Noack, A. (2009). Modularity clustering is force-directed layout. Physical Review E 79, 026102.",
    "Frantzi 2000": "Frantzi, K., Ananiadou, S. & Mima, H. (2000). Automatic recognition of multi-word terms: the "
    "C-value/NC-value method. International Journal on Digital Libraries 3, 115–130.",
    "Spärck Jones 1972": "Spärck Jones, K. (1972). A statistical interpretation of term specificity and its application in "
    "retrieval. Journal of Documentation 28, 11–21.",
    "Barnes 1986": "Barnes, J. & Hut, P. (1986). A hierarchical O(N log N) force-calculation algorithm. Nature 324.",
    "Brandes 2007": "Brandes, U. & Pich, C. (2007). Eigensolver methods for progressive multidimensional scaling of "
    "large data. Graph Drawing 2006, 42–53.",
}

_WEIGHTS = {
    "association": ("observed over expected, c_ij T / (k_i k_j)", "Zitt 2000"),
    "cosine": ("the count over the geometric mean of both items' own", "Salton 1983"),
    "jaccard": ("the count over what either item has", ""),
    "inclusion": ("the count over the fewer of both items' own", ""),
    "equivalence": ("the squared count over the product of both items' own", "Callon 1991"),
}


def flow_lines(corpus: Corpus) -> list[str]:
    """From what was read to what was kept, a line a step."""
    flow = corpus.flow
    lines = [f"- read: {flow.read:,} records"] if flow.read != len(corpus) else []
    if flow.by_identifier:
        lines.append(f"- the same record again, by identifier: {flow.by_identifier:,}, joined with the first")
    if flow.by_title:
        lines.append(f"- the same record again, by title, people and year: {flow.by_title:,}, joined with the first")
    if len(corpus.doubtful):
        lines.append(f"- pairs that look alike and were kept apart, undecided: {len(corpus.doubtful):,}")
    lines += [f"- left out ({reason}): {n:,}" for reason, n in flow.excluded]
    lines += [f"- decision not applied: {why}" for _, why in flow.unapplied]
    return [*lines, "", "The flow is drawn in flow.svg.", ""] if lines else []


def methods(subject: Subject) -> str:
    """The method as Markdown."""
    cited: list[str] = []

    def cite(name: str) -> str:
        if name and name not in cited:
            cited.append(name)
        return f" ({name.replace(' ', ' et al. ' if 'Traag' in name else ' ')})" if name else ""

    corpus, relate, group = subject.corpus, subject.relate, subject.group
    grouped, stable = subject.grouped, subject.stable
    items = many(relate)
    network, filtered = subject.network, subject.related.filtered
    lines = ["# Method", "", "## Records", ""]
    for source in corpus.sources:
        troubles = f", {len(source.problems)} problems" if source.problems else ""
        coded = f", {source.encoding}" if source.encoding else ""
        found = f"; {source.told}" if source.told else ""
        lines.append(f"- {source.name}: {source.records:,} records ({source.format}{coded}{troubles}){found}")
    undated = f"; {filtered.undated:,} without a year" if filtered.undated else ""
    lines += ["", *flow_lines(corpus), f"{len(corpus):,} records in all{undated}.", "", "## Reconciling", ""]
    what = Counter((d.kind, d.decision) for d in subject.ledger)
    if what:
        lines += [f"- {kind}: {n:,} × {decision}" for (kind, decision), n in sorted(what.items())]
    else:
        lines.append("No forms were merged, set aside or kept apart.")
    for kind, level in sorted(subject.accept.items()):
        lines.append(f"- suggestions for {kind} were taken at a confidence of {level:g} and above")
    for kind in relate.reconciled:
        resolution = subject.resolutions[kind]
        lines += [f"- not applied: {d.decision} {d.form!r}: {why}" for d, why in resolution.unapplied]
        forms, entities = len(resolution.entity), len(resolution.label)
        lines += ["", f"{forms:,} spellings stand for {entities:,} {KIND_WORDS[kind][1]}."]
    lines += ["", "## Ties", ""]
    text = told(relate).rstrip(".") + cite(DEFINED_BY.get(relate.tie, "")) + "."
    if relate.counting == "fractional" and not relate.directed:
        sides = relate.tie == "two-mode" and not relate.project
        text += (
            " A pair of a record with n items on one side and m on the other counts 1/(n·m)."
            if sides
            else (" A pair among n items that share something counts 1/(n − 1)" + cite("Newman 2001") + ".")
        )
    lines.append(text)
    if subject.terms is not None and "term" in relate.reconciled:
        lines.append(
            f"Terms are runs of content words by their dictionary forms, the {relate.best or len(subject.terms.forms):,} of highest "
            f"C-value{cite('Frantzi 2000')} times distinctiveness{cite('Spärck Jones 1972')} kept, mentions never overlapping; read from {', '.join(relate.terms)} "
            f"({subject.terms.told})."
        )
    if relate.normalise != "none":
        definition, name = _WEIGHTS[relate.normalise]
        lines.append(f"Weights are normalised: {definition}{cite(name)}.")
    if relate.backbone:
        lines.append(f"The backbone of ties is the disparity filter at {relate.backbone:g}{cite('Serrano 2009')}.")
    lines += ["", "Filters, in this order:", ""]
    for why, before, after, unit in filtered.steps:
        change = f"{before - after:,} left out" if after <= before else f"{after - before:,} added"
        lines.append(f"- {why}: {before:,} → {after:,} {unit} ({change})")
    if not filtered.steps:
        lines.append("- none")
    lines += [f"- not applied by hand: {d.decision} {d.form!r}: {why}" for d, why in filtered.unapplied]
    if relate.attributes:
        columns = ", ".join(relate.attributes)
        lines += ["", f"Joined to the {items} by name: {columns}."]
    if filtered.unmatched:
        lines.append(f"Rows of the joined tables that name none of them: {'; '.join(filtered.unmatched)}.")
    kept = "the largest connected part" if relate.keep == "connected" else f"all {items}, tied or not"
    lines += ["", f"Kept: {kept}. The network has {len(network):,} {items} and {network.ties:,} ties."]
    lines += measure_lines(subject)
    lines += ["", "## Topics", ""]
    quality = (
        f"modularity with resolution {group.grain:g}" + cite("Reichardt 2006")
        if group.quality == "modularity"
        else f"the constant Potts model with resolution {group.grain:g}" + cite("Traag 2011")
    )
    text = (
        f"Leiden clustering{cite('Traag 2019')} on {quality}, {'weighted' if group.weighted else 'unweighted'} ties, "
        f"seed {group.seed}, run until it no longer improves: {len(grouped.topics)} topics, "
        f"modularity {grouped.modularity:.3f}"
    )
    if group.quality != "modularity" or group.grain != 1:
        text += f" (at resolution 1), quality that was optimised {grouped.quality:.3f}"
    lines.append(text + ".")
    if stable.index == stable.index:
        lines.append(
            f"Stability: mean adjusted Rand index{cite('Hubert 1985')} with {group.runs} runs under other seeds is "
            f"{stable.index:.3f}. An item's confidence is the share of those runs that keep it with its topic."
        )
    lines.append(
        "Topics are named by their terms of highest log-likelihood against the rest" + cite("Dunning 1993") + "."
    )
    lines += ["", "| topic | items | records | terms |", "| --- | ---: | ---: | --- |"]
    listed = [t for t in grouped.topics if t.items >= LISTED]
    for topic in listed:
        terms = ", ".join(topic.terms[:6]).replace("|", "\\|")
        lines.append(f"| {topic.number} {topic.name.replace('|', ' ')} | {topic.items} | {topic.records} | {terms} |")
    if small := len(grouped.topics) - len(listed):
        few = (
            f"{small:,} topics of fewer than {LISTED} items are"
            if small > 1
            else f"One topic of fewer than {LISTED} items is"
        )
        lines += ["", f"{few} not listed here; topics.csv has all."]
    lines += [
        "",
        "## Chart",
        "",
        (
            f"A force layout{cite('Fruchterman 1991')}{cite('Noack 2009')} from a first drawing by distances"
            f"{cite('Brandes 2007')}, repulsion by a quadtree{cite('Barnes 1986')}, seed {subject.chart.seed}. "
            f"The area of a mark shows {subject.chart.size_by}; tint shows {subject.chart.tint_by}."
        ),
        "",
        f"Made with Umber Knot {__version__}.",
        "",
        "## Sources",
        "",
    ]
    lines += [f"- {SOURCES[name]}" for name in cited]
    return "\n".join(lines) + "\n"
