"""Every kind of tie against its definition (METHODS, "Ties"), written plainly over sets of small made-up studies."""

import csv
import itertools
import json
import re
from collections import Counter
from math import sqrt
from pathlib import Path

import networkx as nx
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from umber_knot.cli import main
from umber_knot.corpus.assemble import corpus_of
from umber_knot.corpus.model import Decision, RawRecord, Source
from umber_knot.errors import UserError
from umber_knot.gather.references import Matches
from umber_knot.lineage.recipe import parse_recipe
from umber_knot.reconcile.decisions import resolve
from umber_knot.relate import pairs
from umber_knot.relate.counting import count
from umber_knot.relate.explaining import Material, explain
from umber_knot.relate.listing import emptied
from umber_knot.relate.parameters import Relate
from umber_knot.relate.result import Related
from umber_knot.relate.selecting import select
from umber_knot.relate.wording import called, told

PEOPLE, VENUES, YEARS = "ABCDE", "XYZ", [0, 1990, 1995, 2001]
RECORD = st.fixed_dictionaries(
    {
        "people": st.lists(st.sampled_from(PEOPLE), max_size=4, unique=True),
        "venue": st.sampled_from(["", *VENUES]),
        "year": st.sampled_from(YEARS),
        "cites": st.lists(st.sampled_from([0, 1, 2, 3, 4, "p", "q"]), max_size=6),
        "from": st.lists(st.sampled_from(PEOPLE), max_size=2, unique=True),
        "to": st.lists(st.sampled_from(PEOPLE), max_size=3, unique=True),
    }
)
STUDIES = st.lists(RECORD, min_size=1, max_size=7)


def build(study, decisions=(), merged=(), **sentence):
    """The network of a sentence; a reference is written ``r3`` (or ``R3``) where it means record 3."""
    raw = [
        RawRecord(
            k + 1,
            title=f"{k} on mud",
            persons=r["people"],
            venue=r["venue"],
            year=r["year"],
            references=[f"r{c}" if n % 2 else f"R{c}" for n, c in enumerate(r["cites"])],
            others=[("person", "sender", name) for name in r["from"]]
            + [("person", "recipient", name) for name in r["to"]],
        )
        for k, r in enumerate(study)
    ]
    corpus = corpus_of([(Source("s", "s", "RIS", "utf-8", "", len(raw)), raw)])
    forms = corpus.of("reference").forms
    means = [int(f[1:]) if f[1:].isdigit() and int(f[1:]) < len(study) else -1 for f in forms]
    matches = Matches(np.array(means, np.int32), np.ones(len(means)), np.zeros(len(means), np.int8))
    spelt = [Decision("reference", "merge", f, f.lower()) for f in forms if f[0] == "R" and f.lower() in list(forms)]
    sentence = Relate(**sentence)
    known = {kind: resolve(corpus, kind, [*decisions, *spelt]) for kind in sentence.reconciled}
    counted = count(corpus, known, sentence, matches)
    related = Related(counted, select(corpus, counted, sentence))
    for k in range(len(related.counted.source)):  # every tie is the sum of the parts that explain it
        a, b = int(related.counted.source[k]), int(related.counted.target[k])
        terms = explain(Material(corpus, known, matches, sentence), related.counted, a, b)
        assert len(terms) == related.counted.count[k]
        assert sum(t.share for t in terms) == pytest.approx(related.counted.weight[k], rel=1e-9)
    return corpus, related


def ties(related, names=None):
    """(source, target) → (weight, count) by label, records by their number."""
    network = related.network
    said = [network.entity[i] if network.kind_of(i) == "record" else network.label[i] for i in range(len(network))]
    found = {}
    for s, t, w, c in zip(network.source, network.target, network.weight, network.count):
        key = (said[s], said[t])
        found[key if network.directed else tuple(sorted(key, key=str))] = (pytest.approx(w, rel=1e-9), int(c))
    return found


def everyone(r):
    """Who made a record, or exchanged it."""
    return {*r["people"], *r["from"], *r["to"]}


def cited(study, r):
    """The works a record cites: records of the study by number, others by name."""
    return {c if isinstance(c, int) and c < len(study) else f"r{c}" for c in study[r]["cites"]}


def works_in(study, r):
    return {c for c in cited(study, r) if isinstance(c, int) and c != r}


def shared_out(hubs, full):
    """Pairs within each hub."""
    weight, times = Counter(), Counter()
    for items in hubs:
        for pair in itertools.combinations(sorted(items, key=str), 2):
            weight[pair] += 1 if full else 1 / (len(items) - 1)
            times[pair] += 1
    return {p: (w, times[p]) for p, w in weight.items()}


counting = st.sampled_from(["full", "fractional"])


@given(STUDIES, st.sampled_from(["record", "person", "venue"]), counting)
@settings(max_examples=60)
def test_citation(study, of, how):
    own = {
        "record": lambda r: {r},
        "person": lambda r: everyone(study[r]),
        "venue": lambda r: {study[r]["venue"]} - {""},
    }[of]
    weight, times = Counter(), Counter()
    for r in range(len(study)):
        for c in works_in(study, r):
            for pair in itertools.product(own(r), own(c)):
                weight[pair] += 1 if how == "full" else 1 / (len(own(r)) * len(own(c)))
                times[pair] += 1
    _, related = build(study, tie="citation", of=of, counting=how)
    assert related.network.directed
    assert ties(related) == {p: (w, times[p]) for p, w in weight.items()}


@given(STUDIES, st.sampled_from(["record", "reference", "person"]), counting)
@settings(max_examples=60)
def test_co_citation(study, of, how):
    hubs = []
    for r in range(len(study)):
        if of == "record":
            hubs.append(works_in(study, r))
        elif of == "person":
            hubs.append({p for c in works_in(study, r) for p in everyone(study[c])})
        else:
            hubs.append(cited(study, r))
    _, related = build(study, tie="co-citation", of=of, counting=how)
    expected = shared_out(hubs, how == "full")
    if of == "reference":  # labels are a spelling of it
        found = Counter(round(float(w), 9) for w in related.network.weight.tolist())
        assert found == Counter(round(w, 9) for w, _ in expected.values())
        assert related.network.records.sum() == sum(map(len, hubs))
    else:
        assert ties(related) == expected


@given(
    STUDIES, st.sampled_from(["record", "person", "venue"]), counting, st.sampled_from(["none", "cosine", "jaccard"])
)
@settings(max_examples=60)
def test_coupling(study, of, how, normalise):
    own = {
        "record": lambda r: {r},
        "person": lambda r: everyone(study[r]),
        "venue": lambda r: {study[r]["venue"]} - {""},
    }[of]
    pools = {}
    for r in range(len(study)):
        for item in own(r):
            pools.setdefault(item, set()).update(cited(study, r))
    hubs = {}
    for item, works in pools.items():
        for work in works:
            hubs.setdefault(work, set()).add(item)
    expected = shared_out(hubs.values(), how == "full")
    if normalise == "cosine":
        expected = {(a, b): (w / sqrt(len(pools[a]) * len(pools[b])), n) for (a, b), (w, n) in expected.items()}
    elif normalise == "jaccard":
        expected = {(a, b): (w / (len(pools[a]) + len(pools[b]) - w), n) for (a, b), (w, n) in expected.items()}
    _, related = build(study, tie="coupling", of=of, counting=how, normalise=normalise)
    assert ties(related) == expected


@given(STUDIES, counting, st.sampled_from([(), (1990, 1995)]), st.sampled_from([0, 3]))
@settings(max_examples=60)
def test_correspondence(study, how, years, most):
    weight, times, first = Counter(), Counter(), {}
    for r in study:
        if (years and not years[0] <= r["year"] <= years[1]) or (most and len({*r["from"], *r["to"]}) > most):
            continue
        for pair in itertools.product(r["from"], r["to"]):
            weight[pair] += 1 if how == "full" else 1 / (len(r["from"]) * len(r["to"]))
            times[pair] += 1
            if r["year"]:
                first[pair] = min(first.get(pair, 9999), r["year"])
    _, related = build(study, tie="correspondence", counting=how, years=years, max_per_record=most)
    assert ties(related) == {p: (w, times[p]) for p, w in weight.items()}
    network = related.network
    for s, t, day in zip(network.source, network.target, network.tie_first):
        known = first.get((network.label[s], network.label[t]))
        assert np.isnat(day) if known is None else day.astype("datetime64[Y]").astype(int) + 1970 == known


@given(STUDIES, counting, st.sampled_from(["", "person", "venue"]))
@settings(max_examples=60)
def test_two_mode(study, how, project):
    pairs = {(p, r["venue"]) for r in study if r["venue"] for p in everyone(r)}
    if project:
        hubs = {}
        for person, venue in pairs:
            own, hub = (person, venue) if project == "person" else (venue, person)
            hubs.setdefault(hub, set()).add(own)
        expected = shared_out(hubs.values(), how == "full")
    else:
        expected, times = Counter(), Counter()
        for r in study:
            for person in everyone(r) if r["venue"] else ():
                expected[person, r["venue"]] += 1 if how == "full" else 1 / len(everyone(r))
                times[person, r["venue"]] += 1
        expected = {p: (w, times[p]) for p, w in expected.items()}
    _, related = build(study, tie="two-mode", of="person", second="venue", project=project, counting=how)
    assert ties(related) == expected
    network = related.network
    if not project:
        assert network.kinds == ("person", "venue")
        assert sorted(network.identities()) == sorted(
            {("person", p) for r in study for p in everyone(r)} | {("venue", r["venue"]) for r in study if r["venue"]}
        )


def test_a_name_on_both_sides_stays_two_items_and_what_is_set_aside_leaves_its_side():
    study = [{"people": ["X", "B"], "venue": "X", "year": 1990, "cites": [], "from": [], "to": []}]
    _, related = build(study, tie="two-mode", of="person", second="venue")
    assert (
        related.network.identities() == [("person", "X"), ("person", "B"), ("venue", "X")] or len(related.network) == 3
    )
    assert sorted(related.network.told_apart()) == ["B", "X [person]", "X [venue]"]
    aside = [Decision("person", "aside", "X", "")]
    _, less = build(study, aside, tie="two-mode", of="person", second="venue")
    assert sorted(less.network.identities()) == [("person", "B"), ("venue", "X")]
    assert related.shown().tolist() == [0, 1, 2] and less.shown().tolist() == [1, 2]


def test_a_record_that_cites_itself_or_the_future_is_said():
    blank = {"people": ["A"], "venue": "", "from": [], "to": []}
    study = [{**blank, "year": 1990, "cites": [0, 1]}, {**blank, "year": 1995, "cites": [1, 0]}]
    corpus, related = build(study, tie="citation", of="record")
    assert ties(related) == {(0, 1): (1, 1), (1, 0): (1, 1)}
    assert related.filtered.steps == (
        ("cites itself", 4, 2, "citations"),
        ("1 cite a later year, and stay", 2, 2, "citations"),
    )
    assert list(related.network.label) == ["A 1990", "A 1995"]
    assert list(related.network.form) == [corpus.anchor(0), corpus.anchor(1)]
    _, less = build(study, tie="citation", of="record", years=(1995, 1995))  # told of the records that pass alone
    assert less.filtered.steps[1:] == (("cites itself", 1, 0, "citations"),)


def test_no_ties_and_no_items_are_networks_too():
    blank = {"people": [], "venue": "", "year": 0, "cites": [], "from": [], "to": []}
    for sentence in (
        {"tie": "citation", "of": "record"},
        {"tie": "co-citation", "of": "reference"},
        {"tie": "coupling", "of": "person"},
        {"tie": "correspondence"},
        {"tie": "two-mode", "of": "person", "second": "venue"},
    ):
        _, related = build([blank, blank], **sentence)
        assert related.network.ties == 0 and len(related.network) == (2 if sentence.get("of") == "record" else 0)


@pytest.mark.parametrize(
    ("words", "said"),
    [
        ('tie = "correspondence"\nof = "keyword"', "letters go between people or places"),
        ('tie = "two-mode"\nof = "person"', "needs two kinds"),
        ('tie = "citation"\nof = "record"\nnormalise = "cosine"', "ties with a direction are not normalised"),
        ('tie = "co-authorship"\nof = ["person", "venue"]', "ties items of one kind"),
        ('tie = "two-mode"\nof = ["person", "venue"]\nproject = "keyword"', "cannot be projected"),
        ('tie = "two-mode"\nof = ["person", "venue", "keyword"]', "one kind or two"),
        ('tie = "coupling"\nof = "reference"', "cited, not citing"),
        ('tie = "co-authorship"\nof = "record"', "records share no record"),
        ('second = "venue"', "unknown key 'second'"),
        ('tie = "cocitation"', "cannot be 'cocitation'"),
    ],
)
def test_what_does_not_go_together_is_refused_with_a_cure(words, said):
    with pytest.raises(UserError, match=said) as error:
        parse_recipe(f'[gather]\nsources = ["a.ris"]\n[relate]\n{words}\n')
    assert error.value.cure


def test_a_recipe_of_two_kinds_reads_back():
    text = '[gather]\nsources = ["a.ris"]\n[relate]\ntie = "two-mode"\nof = ["person", "venue"]\n'
    recipe = parse_recipe(text)
    assert (recipe.relate.of, recipe.relate.second) == ("person", "venue")
    assert parse_recipe(recipe.toml()) == recipe and recipe.strands[0].proposed() == "People and venues"
    one = parse_recipe(text + 'project = "person"\n')
    assert one.strands[0].proposed() == "People by shared venues" and parse_recipe(one.toml()) == one


def test_every_tie_has_its_own_words():
    sentences = [
        Relate(tie=tie, of=of, second=second, project=project)
        for tie, of, second, project in (
            ("co-authorship", "person", "", ""),
            ("co-occurrence", "keyword", "", ""),
            ("citation", "record", "", ""),
            ("citation", "venue", "", ""),
            ("co-citation", "reference", "", ""),
            ("coupling", "record", "", ""),
            ("correspondence", "person", "", ""),
            ("correspondence", "place", "", ""),
            ("two-mode", "person", "venue", ""),
            ("two-mode", "person", "venue", "venue"),
        )
    ]
    assert len({told(s) for s in sentences}) == len(sentences) == len({called(s) for s in sentences})
    assert not [s for s in sentences if s.contradiction()[0]]


# -- filters of records and ties


@given(STUDIES, st.integers(1, 3), st.booleans())
@settings(max_examples=40)
def test_the_strongest_ties_of_an_item_stay(study, k, directed):
    words = {"tie": "citation", "of": "person"} if directed else {"tie": "co-authorship"}
    _, whole = build(study, **words)
    _, less = build(study, top_k=k, **words)
    every = {p: w for p, (w, _) in plainly(whole).items()}
    ends = [{}, {}] if directed else [{}] * 2
    for (a, b), w in every.items():
        ends[0].setdefault(a, []).append(w)
        ends[1].setdefault(b, []).append(w)
    kept = {
        (a, b): w
        for (a, b), w in every.items()
        if any(w >= sorted(of[x], reverse=True)[:k][-1] for of, x in zip(ends, (a, b)))
    }
    assert {p: w for p, (w, _) in plainly(less).items()} == kept
    assert len(less.network) == len(whole.network)


@given(STUDIES, st.sampled_from([0.2, 0.5, 0.9]))
@settings(max_examples=40)
def test_the_backbone_is_serranos(study, alpha):
    _, whole = build(study, tie="co-authorship")
    _, less = build(study, tie="co-authorship", backbone=alpha)
    every = plainly(whole)
    of = {}
    for (a, b), (w, _) in every.items():
        of.setdefault(a, []).append(w)
        of.setdefault(b, []).append(w)

    def chance(x, w):
        return (1 - w / sum(of[x])) ** (len(of[x]) - 1) if len(of[x]) > 1 else 1

    expected = {(a, b) for (a, b), (w, _) in every.items() if min(chance(a, w), chance(b, w)) < alpha}
    assert set(plainly(less)) == expected


def plainly(related):
    network = related.network
    return {
        (network.label[s], network.label[t]): (w, c)
        for s, t, w, c in zip(network.source, network.target, network.weight.tolist(), network.count.tolist())
    }


def test_records_are_filtered_as_on_gather_and_it_is_said():
    study = [
        {"people": ["A", "B"], "venue": v, "year": y, "cites": [], "from": [], "to": []}
        for v, y in (("X", 1990), ("Y", 1995), ("X", 2001))
    ]
    _, related = build(study, tie="co-authorship", where="in:X -year:2001")
    assert plainly(related) == {("A", "B"): (1.0, 1)}
    assert related.filtered.steps == (("not in:X -year:2001", 3, 1, "records"),)
    _, some = build(study, tie="co-authorship", where="in:X", top_k=1, backbone=0.5)
    assert [what for what, *_ in some.filtered.steps] == [
        "not in:X",
        "not among the 1 strongest of an item",
        "as likely by chance as 0.5",
    ]


def test_every_example_of_the_recipes_page_is_read_and_the_one_of_ties_runs(tmp_path):
    page = (Path(__file__).parents[1] / "docs" / "recipe.md").read_text(encoding="utf-8")
    examples = re.findall(r"```toml\n(.*?)```", page, re.S)
    assert len(examples) >= 2
    for text in examples:
        parse_recipe(text)
    ris = "".join(
        f"TY  - JOUR\nID  - r{k}\nTI  - Silt behind the gate number {k}\nAU  - Dray, T.\nAU  - Vash, {'OEKN'[k % 4]}.\n"
        f"T2  - Mud {'Record' if k % 2 else 'Letters'}\nPY  - {1990 + k}\nDO  - 10.99999/a.{k}\n"
        + "".join(f"CR  - Dray T, {1990 + c}, MUD, V1, DOI 10.99999/a.{c}\n" for c in range(max(k - 3, 0), k))
        + "ER  - \n"
        for k in range(8)
    )
    (tmp_path / "records.ris").write_text(ris)
    (tmp_path / "ties.toml").write_text(
        next(e for e in examples if "co-citation" in e and "[[strand]]" in e and "Letters" in e)
    )
    assert main(["run", str(tmp_path / "ties.toml"), "--out", str(tmp_path / "out"), "--quiet"]) == 0
    told = json.loads((tmp_path / "out" / "run.json").read_text())
    names = [
        "Records that cite one another",
        "Cited together",
        "Coupled",
        "Where people publish",
        "Venues by their people",
        "Letters",
        "Terms in a sentence",
        "Terms by distance",
        "Records of about one year",
        "Types in a year",
        "Cited people, either way",
    ]
    assert [s["name"] for s in told["strands"]] == names
    with (tmp_path / "out" / "ties.csv").open(encoding="utf-8") as file:
        rows = list(csv.DictReader(file))
    assert len(rows) == 18 and {r["directed"] for r in rows} == {"yes"}
    with (tmp_path / "out" / "Where people publish" / "items.csv").open(encoding="utf-8") as file:
        kinds = {r["label"]: r["kind"] for r in csv.DictReader(file)}
    assert kinds["Dray, T."] == "person" and kinds["Mud Record"] == "venue"
    method = (tmp_path / "out" / "Coupled" / "methods.md").read_text(encoding="utf-8")
    assert "every work that both cite" in method and "Kessler" in method


def test_a_network_without_ties_says_what_emptied_it():
    study = [
        {"people": ["A", "B"], "venue": "X", "year": 1990, "cites": [], "from": [], "to": []},
        {"people": ["C"], "venue": "", "year": 1995, "cites": [], "from": ["A"], "to": ["D"]},
    ]

    def why(**sentence):
        return emptied(build(study, **sentence)[1])

    assert why() == "" and why(tie="correspondence") == ""
    assert why(years=(2000, 2001)) == "“not from 2000 to 2001, or undated” left none of 2 records"
    assert why(min_records=2) == "“fewer than 2 records” left none of 3 people"
    assert why(min_weight=9.0) == "“ties lighter than 9” left none of 1 ties"
    assert why(tie="citation", of="record") == "nothing in the records ties two of them"
    assert why(tie="co-citation", of="reference") == "no record names them"
    assert why(years=(1995, 1995)) == "nothing in the records ties two of them"
    # people of letters are people of a record, editors are not
    _, related = build(study, tie="two-mode", of="person", second="record")
    assert {a for a, _ in plainly(related)} == {"A", "B", "C", "D"}


def test_ties_beyond_what_memory_holds_are_refused_with_the_number_and_a_cure(monkeypatch):
    blank = {"venue": "", "year": 0, "cites": [], "from": [], "to": []}
    study = [{**blank, "people": list("ABCDE")}, {**blank, "people": list("FGHIJ")}]
    assert build(study)[1].network.ties == 20
    monkeypatch.setattr(pairs, "MOST_TIES", 15)
    with pytest.raises(UserError, match="more than 15 ties") as error:
        build(study)
    assert "Leave out records" in error.value.cure
    monkeypatch.setattr(pairs, "MOST_TIES", 20)
    assert build(study)[1].network.ties == 20
    monkeypatch.setattr(pairs, "MOST_PAIRS", 19)
    with pytest.raises(UserError, match="pairs would have to be counted"):
        build(study)
    letters = [{**blank, "people": [], "from": list("AB"), "to": list("CDE")}]
    monkeypatch.setattr(pairs, "MOST_ACROSS", 5)
    with pytest.raises(UserError, match="6 pairs would have to be counted"):
        build(letters, tie="correspondence")


@given(STUDIES, st.lists(st.sampled_from(PEOPLE), min_size=1, max_size=2), st.integers(1, 3))
@settings(max_examples=40)
def test_surroundings_are_what_is_reached_in_so_many_steps(study, names, steps):
    _, whole = build(study, tie="correspondence")
    _, less = build(study, tie="correspondence", around=tuple(names), steps=steps)
    graph = nx.Graph()
    graph.add_nodes_from(whole.network.label)
    graph.add_edges_from(plainly(whole))
    near = {b for a in names if a in graph for b in nx.single_source_shortest_path_length(graph, a, cutoff=steps)}
    assert set(less.network.label) == near
    assert set(plainly(less)) == {p for p in plainly(whole) if set(p) <= near}
    what, before, after, unit = less.filtered.steps[-1]
    assert (before, after, unit) == (len(graph), len(near), "people") and " or ".join(names) in what
