"""Brackwater holds what it promises, so that tests against its truth mean something."""

from collections import Counter

import numpy as np

from umber_knot.corpus.model import fold
from umber_knot.demo import OVERLAPS, demo_study
from umber_knot.demo.records import NEIGHBOURS, RECORDS, TOPICS, records
from umber_knot.reconcile.decisions import resolve
from umber_knot.reconcile.suggest import suggest


def test_the_literature_has_its_size_and_span(corpus, truth):
    assert len(corpus) == RECORDS == 1200
    years = corpus.year[corpus.year > 0]
    assert years.min() <= 1977 and years.max() == 2025
    assert set(truth["topics"].values()) == set(TOPICS) and len(TOPICS) == 8
    assert set(NEIGHBOURS) == set(TOPICS) and all(n in TOPICS for near in NEIGHBOURS.values() for n in near)
    assert 850 <= len(truth["people"]) <= 950
    assert {s.format for s in corpus.sources} == {"RIS", "BibTeX", "CSV", "CSL-JSON"}
    assert (
        corpus.flow.by_identifier + corpus.flow.by_title == OVERLAPS == len(truth["twice"]) == len(corpus.also.record)
    )


def test_names_vary_and_some_are_shared(corpus, truth):
    spellings, owners = {}, {}
    for mentions in truth["persons"].values():
        for name, person in mentions:
            spellings.setdefault(person, set()).add(fold(name))
            owners.setdefault(fold(name), set()).add(person)
    people = corpus.of("person")
    assert {people.forms[f] for f in people.form} <= set(owners)
    assert sum(len(s) > 1 for s in spellings.values()) > 300, "people with several spellings"
    full = Counter(truth["people"].values())
    assert sum(n > 1 for n in full.values()) >= 5, "namesakes"
    assert any(name.isupper() for name in owners) and any(not name.isascii() for name in owners)


def test_keywords_vary_and_references_point_back(corpus, truth):
    assert len(set(truth["keywords"].values())) * 2 < len(truth["keywords"])
    made, _ = records()
    seen = set()
    for record in made:
        for reference in record.references:
            if "10.99999/" in reference:
                assert reference.split("DOI ")[1] in seen
        if record.doi:
            seen.add(record.doi)
    assert len(corpus.of("reference").record) > 8000


def test_nobody_writes_twice_in_one_record():
    made, truth = records()
    for record in made:
        ids = [person for _, person in truth["persons"][record.entry]]
        assert len(set(ids)) == len(ids) >= 1


def test_the_demo_study_is_made_once_and_kept():
    path = demo_study()
    stamp = path.stat().st_mtime_ns
    assert demo_study() == path and path.stat().st_mtime_ns == stamp


def test_suggestions_are_the_same_every_time(corpus):
    one, two = (suggest(corpus, "person", resolve(corpus, "person", [])) for _ in range(2))
    assert one == two
    levels = [s.confidence for s in one]
    assert levels == sorted(levels, reverse=True) and min(levels) >= 0.3 and max(levels) <= 1
    sure = [f for s in one if s.action == "merge" and s.confidence >= 0.9 for f in s.forms]
    assert np.unique(sure, return_counts=True)[1].max() == 1, "a form stands in one sure set"
