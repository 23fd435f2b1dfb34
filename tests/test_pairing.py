"""Candidate pairs, sets and surroundings against plain oracles."""

from collections import Counter
from itertools import combinations

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from rapidfuzz.distance import OSA

from umber_knot.corpus.assemble import corpus_of
from umber_knot.corpus.model import RawRecord, Source
from umber_knot.reconcile.pairing import is_among, packed, pairs_within, slips
from umber_knot.reconcile.sets import consistent_sets, heads, joined_sets, pairwise
from umber_knot.reconcile.surroundings import surroundings, together


@given(st.lists(st.integers(0, 6), max_size=25), st.integers(2, 8))
def test_pairs_within_are_all_pairs_of_equal_keys(keys, most):
    a, b = pairs_within(np.array(keys, np.int64), most)
    size = Counter(keys)
    wanted = {(i, j) for i, j in combinations(range(len(keys)), 2) if keys[i] == keys[j] and size[keys[i]] <= most}
    assert {tuple(sorted(p)) for p in zip(a.tolist(), b.tolist())} == wanted and len(a) == len(wanted)


@given(st.lists(st.text("abc", min_size=1, max_size=7), unique=True, max_size=25))
def test_slips_are_all_pairs_at_distance_one(words):
    found = slips(words, range(len(words)), 4)
    wanted = [
        (i, j)
        for i, j in combinations(range(len(words)), 2)
        if min(len(words[i]), len(words[j])) >= 4 and OSA.distance(words[i], words[j]) == 1
    ]
    assert [p for p in found if min(len(words[p[0]]), len(words[p[1]])) >= 4] == wanted


@given(st.lists(st.tuples(st.integers(0, 5), st.integers(0, 9)), max_size=40))
def test_forms_in_one_record_and_membership(mentions):
    record, form = np.array(mentions, np.int32).reshape(-1, 2).T
    found = together(6, record, form)
    wanted = {(a, b) for r in range(6) for a, b in combinations(sorted({f for q, f in mentions if q == r}), 2)}
    assert [(int(p >> 32), int(p & 0xFFFFFFFF)) for p in found] == sorted(wanted)
    every = [(a, b) for a in range(10) for b in range(a + 1, 10)]
    pairs = packed(*np.array(every).T)
    assert dict(zip(every, is_among(pairs, found).tolist())) == {p: p in wanted for p in every}


PAIRS = st.lists(
    st.tuples(st.floats(-3, 6), st.integers(0, 11), st.integers(0, 11)).filter(lambda p: p[1] < p[2]),
    max_size=30,
    unique_by=lambda p: p[1:],
)


@given(PAIRS, st.sets(st.tuples(st.integers(0, 11), st.integers(0, 11)), max_size=12))
def test_no_set_holds_a_pair_that_must_not_merge(pairs, forbidden):
    bad = {frozenset(p) for p in forbidden if p[0] != p[1]}
    found = consistent_sets(pairs, [], pairwise(lambda a, b: frozenset((a, b)) in bad), 0.0)
    for one in found:
        assert not any(frozenset(p) in bad for p in combinations(one.forms, 2))
        assert len(one.forms) > 1 and one.odds >= 0
    members = [f for one in found for f in one.forms]
    assert len(members) == len(set(members))
    assert found == consistent_sets(pairs[::-1], [], pairwise(lambda a, b: frozenset((a, b)) in bad), 0.0), (
        "order does not matter"
    )


@given(PAIRS)
def test_without_forbidden_pairs_the_surest_pair_is_always_joined(pairs):
    found = consistent_sets(pairs, [], pairwise(lambda a, b: False), 0.0)
    if pairs and max(pairs)[0] >= 0:
        _, a, b = max(pairs)
        assert any({a, b} <= set(one.forms) for one in found)
    else:
        assert found == []


def test_what_is_settled_joins_as_a_whole_and_a_weak_link_offers_heads():
    found = consistent_sets([(2.0, 1, 5)], [[0, 1, 2]], pairwise(lambda a, b: False), 0.0)
    assert [one.forms for one in found] == [[0, 1, 2, 5]]
    records = np.array([1, 9, 1, 4, 1])
    sets = joined_sets(
        (np.array([0, 2, 1]), np.array([1, 3, 3])),
        np.array([5.0, 5.0, -0.5]),
        records,
        (),
        pairwise(lambda a, b: False),
    )
    assert [one.forms for one in sets] == [[0, 1], [2, 3], [1, 3]]
    assert heads([0, 1, 4], [[0, 1]], records) == [1, 4]


@given(
    st.lists(
        st.tuples(
            st.lists(st.sampled_from("ABCDE"), min_size=1, max_size=4, unique=True), st.sampled_from(["v", "w", ""])
        ),
        min_size=1,
        max_size=12,
    )
)
def test_surroundings_count_what_two_forms_share(records):
    raw = [RawRecord(k + 1, persons=people, venue=venue, year=1990 + k) for k, (people, venue) in enumerate(records)]
    corpus = corpus_of([(Source("s", "", "", "", "", len(raw)), raw)])
    mentions = corpus.of("person")
    found = surroundings(corpus, mentions, mentions.forms)
    near = {
        f: (
            {p for people, _ in records if f in people for p in people} - {f},
            {v for people, v in records if f in people and v},
            [1990 + k for k, (people, _) in enumerate(records) if f in people],
        )
        for f in mentions.forms
    }
    pairs = np.array(list(combinations(range(len(mentions.forms)), 2)), np.int64).reshape(-1, 2)
    for k, name in ((0, "company"), (1, "venue")):
        count, weight = found.rows[name].shared(pairs[:, 0], pairs[:, 1])
        wanted = [len(near[mentions.forms[a]][k] & near[mentions.forms[b]][k]) for a, b in pairs.tolist()]
        assert count.tolist() == wanted and ((weight > 0) <= (count > 0)).all()
    assert [(int(found.first[f]), int(found.last[f])) for f in range(len(mentions.forms))] == [
        (min(near[t][2]), max(near[t][2])) for t in mentions.forms
    ]
