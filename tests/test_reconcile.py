"""Names, decisions and suggestions, against the planted truth."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from umber_knot.corpus.assemble import corpus_of
from umber_knot.corpus.model import Decision, RawRecord, Source, fold
from umber_knot.errors import UserError
from umber_knot.reconcile.decisions import decisions_csv, read_decisions, resolve
from umber_knot.reconcile.names import compatible, parse_name, singular, word_key
from umber_knot.reconcile.suggest import accepted, suggest


@pytest.mark.parametrize(
    ("text", "family", "given_names"),
    [
        ("Dray, Tamsin A.", "dray", ("tamsin", "a")),
        ("Tamsin A. Dray", "dray", ("tamsin", "a")),
        ("DRAY TA", "dray", ("t", "a")),
        ("van der Merle, J.-P.", "van der merle", ("j", "p")),
        ("Jory van der Merle", "van der merle", ("jory",)),
        ("Sørlie, Åse", "sorlie", ("ase",)),
        ("Holt", "holt", ()),
        ("", "", ()),
        (".,-", ",-"[0:0], ()),
    ],
)
def test_names_in_parts(text, family, given_names):
    name = parse_name(text)
    assert (name.family, name.given) == (family, given_names)


def test_compatible_given_names_is_symmetric_and_sees_contradiction():
    assert compatible(("tamsin",), ("t", "a")) and compatible(("t", "a"), ("tamsin",))
    assert not compatible(("tamsin",), ("tobias",)) and not compatible(("t", "a"), ("t", "b"))


@given(st.text(max_size=30))
def test_keys_ignore_outer_space_and_never_fail(text):
    parse_name(text)
    assert word_key(f" {text} ") == word_key(text)


def test_words_that_mean_different_things_keep_different_keys():
    assert word_key("Tide-Mills") == word_key("tide mill") == word_key("tidemills")
    assert word_key("organic matter") != word_key("inorganic matter")
    assert [singular(w) for w in ("marshes", "analysis", "gas", "fishes")] == ["marsh", "analysis", "gas", "fish"]


FORMS = ("a", "b", "c", "d", "e")


def d(what, form, preferred=""):
    return Decision("keyword", what, form, preferred)


def test_merges_chain_and_the_last_preferred_names_the_set():
    r = resolve(FORMS, [d("merge", "a", "b"), d("merge", "b", "c")])
    assert r.entity[0] == r.entity[1] == r.entity[2] != r.entity[3]
    assert r.label[r.entity[0]] == "c"
    assert resolve(FORMS, [d("merge", "a", "b"), d("prefer", "a", "A!")]).label[r.entity[0]] == "A!"


def test_split_undoes_earlier_merges_only():
    r = resolve(FORMS, [d("merge", "a", "b"), d("split", "a"), d("merge", "a", "c")])
    assert r.entity[0] == r.entity[2] != r.entity[1]


def test_contradictions_are_refused_and_explained():
    r = resolve(FORMS, [d("apart", "a", "c"), d("merge", "a", "b"), d("merge", "b", "c")])
    assert r.entity[1] != r.entity[2]
    assert "kept apart" in r.unapplied[0][1]
    r = resolve(FORMS, [d("merge", "a", "b"), d("apart", "a", "b"), d("aside", "zzz"), d("merge", "a", "b")])
    assert len(r.unapplied) == 2 and "merged" in r.unapplied[0][1] and "spelled 'zzz'" in r.unapplied[1][1]


@given(st.lists(st.tuples(st.sampled_from(FORMS), st.sampled_from(FORMS)), max_size=12))
def test_merging_is_connectedness(pairs):
    import networkx as nx

    graph = nx.Graph()
    graph.add_nodes_from(FORMS)
    graph.add_edges_from(pairs)
    r = resolve(FORMS, [d("merge", a, b) for a, b in pairs])
    for part in nx.connected_components(graph):
        assert len({int(r.entity[FORMS.index(f)]) for f in part}) == 1
    assert len(r.label) == nx.number_connected_components(graph)


def test_decisions_csv_reads_back_and_bad_rows_are_listed(tmp_path):
    path = tmp_path / "d.csv"
    good = [d("merge", 'a "quoted", one', "b"), d("aside", "c;d"), Decision("person", "prefer", "x", "y", "", "why")]
    path.write_text(decisions_csv(good), encoding="utf-8", newline="")
    assert read_decisions(path) == (good, [])
    path.write_bytes(
        "\ufeffkind;decision;form;preferred\nkeyword;merge;a;b\nplanet;merge;a;b\nkeyword;melt;a;b\nkeyword;merge;a;\n".encode()
    )
    found, problems = read_decisions(path)
    assert found == [d("merge", "a", "b")]
    assert [p.split(":")[0] for p in problems] == ["d.csv, line 3", "d.csv, line 4", "d.csv, line 5"]
    path.write_text("form,to\na,b\n")
    with pytest.raises(UserError, match="kind, decision"):
        read_decisions(path)


def pairs_of(suggestions, forms, least):
    for s in suggestions:
        if s.confidence >= least:
            for k, a in enumerate(s.forms):
                for b in s.forms[:k]:
                    yield forms[a], forms[b]


def test_suggestions_agree_with_the_planted_truth(corpus, truth):
    who = {}
    for mentions in truth["persons"].values():
        for name, person in mentions:
            who.setdefault(fold(name), set()).add(person)
    forms = corpus.of("person").forms
    found = list(pairs_of(suggest(corpus, "person", resolve(forms, [])), forms, 0.5))
    assert len(found) > 800
    assert sum(bool(who[a] & who[b]) for a, b in found) / len(found) > 0.97
    forms = corpus.of("keyword").forms
    found = list(pairs_of(suggest(corpus, "keyword", resolve(forms, [])), forms, 0.5))
    same = {frozenset(p) for p in found}
    planted = [(a, b) for k, a in enumerate(forms) for b in forms[:k] if truth["keywords"][a] == truth["keywords"][b]]
    assert all(truth["keywords"][a] == truth["keywords"][b] for a, b in found)
    assert sum(frozenset(p) in same for p in planted) / len(planted) > 0.99


def test_what_must_not_merge_is_never_suggested(corpus):
    mentions = corpus.of("person")
    together = {}
    for record, form in zip(mentions.record.tolist(), mentions.form.tolist()):
        together.setdefault(form, set()).add(record)
    for s in suggest(corpus, "person", resolve(mentions.forms, [])):
        for k, a in enumerate(s.forms):
            for b in s.forms[:k]:
                assert together[a].isdisjoint(together[b])
                assert compatible(parse_name(mentions.forms[a]).given, parse_name(mentions.forms[b]).given)


def small(*people):
    records = [RawRecord(line=k + 1, persons=list(names), year=2000) for k, names in enumerate(people)]
    return corpus_of([(Source("s", "s", "RIS", "utf-8", "", len(records)), records)])


def test_kept_apart_and_merged_forms_are_not_suggested_again():
    corpus = small(["Dray, Tamsin", "Holt, P."], ["Dray, T.", "Holt, P."])
    forms = corpus.of("person").forms
    (offer,) = suggest(corpus, "person", resolve(forms, []))
    assert forms[offer.forms[0]] == "Dray, Tamsin" and any("co-author" in r for r in offer.reasons)
    apart = [Decision("person", "apart", "Dray, T.", "Dray, Tamsin")]
    assert not suggest(corpus, "person", resolve(forms, apart), apart)
    merged = accepted(forms, [offer], 0.0)
    assert not suggest(corpus, "person", resolve(forms, merged), merged)


def test_identifiers_bind_names_and_addresses_and_keep_people_apart():
    records = [
        RawRecord(1, persons=["Dray, Tamsin"], known_as={"Dray, Tamsin": "orcid:0000-0001-2345-6789"}),
        RawRecord(2, persons=["Dray, T."], known_as={"Dray, T.": "orcid:0000-0009-9999-9999"}),
        RawRecord(3, persons=["Holt-Dray, Tamsin"], known_as={"Holt-Dray, Tamsin": "orcid:0000-0001-2345-6789"}),
        RawRecord(4, persons=["tamsin@b.example"], known_as={"tamsin@b.example": "mailto:tamsin@b.example"}),
        RawRecord(5, persons=["Tamsin D."], known_as={"Tamsin D.": "mailto:tamsin@b.example"}),
    ]
    corpus = corpus_of([(Source("s", "s", "RIS", "utf-8", "", len(records)), records)])
    forms = corpus.of("person").forms
    found = suggest(corpus, "person", resolve(forms, []))
    sets = {frozenset(forms[f] for f in s.forms): s for s in found}
    assert sets[frozenset({"Dray, Tamsin", "Holt-Dray, Tamsin"})].reasons == ("same ORCID",)
    assert sets[frozenset({"tamsin@b.example", "Tamsin D."})].confidence == 0.97
    assert not any({"Dray, T.", "Dray, Tamsin"} <= one for one in sets)
