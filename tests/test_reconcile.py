"""Decisions: what they give, what contradicts, splits by record, rules, and files of strangers."""

import numpy as np
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st

from umber_knot.corpus.assemble import corpus_of
from umber_knot.corpus.model import Decision, RawRecord, Source
from umber_knot.corpus.texts import Texts
from umber_knot.errors import UserError
from umber_knot.reconcile.decisions import decisions_csv, read_decisions, refused, resolve, scope_of, sort_out
from umber_knot.reconcile.nearest import likeness
from umber_knot.reconcile.rules import RULE, fault, touched

FORMS = Texts.of(("a", "b", "c", "d", "e"))


def words(*keywords):
    """A corpus with one record for each list of keywords."""
    records = [RawRecord(line=k + 1, keywords=list(texts), year=2000 + k) for k, texts in enumerate(keywords)]
    return corpus_of([(Source("s.ris", "s", "RIS", "utf-8", "", len(records)), records)])


CORPUS = words(*([f] for f in FORMS))


def d(what, form, preferred="", scope=""):
    return Decision("keyword", what, form, preferred, scope)


def resolved(*decisions):
    return resolve(CORPUS, "keyword", decisions)


def test_merges_chain_and_the_last_preferred_names_the_set():
    r = resolved(d("merge", "a", "b"), d("merge", "b", "c"))
    assert r.entity[0] == r.entity[1] == r.entity[2] != r.entity[3]
    assert r.label[r.entity[0]] == "c"
    r = resolved(d("merge", "a", "b"), d("prefer", "a", "A!"), d("prefer", "A!", "A?"))
    assert r.label[r.entity[0]] == "A?" and not r.unapplied


def test_split_undoes_earlier_merges_only():
    r = resolved(d("merge", "a", "b"), d("split", "a"), d("merge", "a", "c"))
    assert r.entity[0] == r.entity[2] != r.entity[1]


def test_contradictions_are_refused_and_explained():
    r = resolved(d("apart", "a", "c"), d("merge", "a", "b"), d("merge", "b", "c"))
    assert r.entity[1] != r.entity[2]
    assert "kept apart" in r.unapplied[0][1] and "forms they are merged with" in r.unapplied[0][1]
    r = resolved(d("merge", "a", "b"), d("merge", "b", "c"), d("apart", "a", "c"), d("aside", "zzz"))
    assert (
        r.unapplied[0][1].endswith("merged by an earlier decision: a → b → c") and "spelled 'zzz'" in r.unapplied[1][1]
    )


@pytest.mark.parametrize(
    ("chain", "circle"),
    [
        (["ab", "bc", "ca"], "c → a → b → c"),
        (["ab", "ba"], "b → a → b"),
        (["aa"], "itself"),
        (["ab", "cb", "ba"], "b → a → b"),
    ],
)
def test_a_chain_that_closes_a_circle_is_found(chain, circle):
    r = resolved(*(d("merge", *pair) for pair in chain))
    assert len(r.unapplied) == 1 and circle in r.unapplied[0][1]
    assert not resolved(d("merge", "a", "b"), d("merge", "a", "b")).unapplied, "the same again is no contradiction"


def test_a_name_that_is_anothers_form_is_refused():
    (problem,) = resolved(d("prefer", "a", "b")).unapplied
    assert "merge the two instead" in problem[1]
    assert not resolved(d("merge", "a", "b"), d("prefer", "a", "b")).unapplied


@given(st.lists(st.tuples(st.sampled_from(FORMS), st.sampled_from(FORMS)), max_size=12))
def test_merging_is_connectedness(pairs):
    import networkx as nx

    graph = nx.Graph()
    graph.add_nodes_from(FORMS)
    graph.add_edges_from(pairs)
    r = resolved(*(d("merge", a, b) for a, b in pairs))
    for part in nx.connected_components(graph):
        assert len({int(r.entity[FORMS.index(f)]) for f in part}) == 1
    assert len(r.label) == nx.number_connected_components(graph)


DECISIONS = st.lists(
    st.builds(
        d,
        st.sampled_from(["merge", "apart", "aside", "prefer", "split"]),
        st.sampled_from(FORMS),
        st.sampled_from([*FORMS, "new"]),
    ),
    max_size=10,
)


@example([d("merge", "a", "new"), d("apart", "a", "new")])
@settings(max_examples=400)
@given(DECISIONS)
def test_what_is_kept_apart_is_never_one_and_refusals_agree(decisions):
    r = resolved(*decisions)
    refusals = {id(one) for one, _ in r.unapplied}
    if not any(one.decision == "split" for one in decisions):
        for one in decisions:
            if (
                one.decision == "apart"
                and id(one) not in refusals
                and one.preferred in FORMS
                and one.form != one.preferred
            ):
                assert r.entity[FORMS.index(one.form)] != r.entity[FORMS.index(one.preferred)]
    last = decisions[-1:]
    if last:
        assert [id(one) for one, _ in refused(FORMS, decisions[:-1], last)] == [i for i in refusals if i == id(last[0])]


def test_a_split_by_record_gives_mentions_another_name():
    corpus = words(["dray"], ["dray", "holt"], ["dray"])
    split = d("split", "dray", "dray (2)", scope_of(corpus, [1, 2]))
    r = resolve(corpus, "keyword", [split, d("merge", "dray (2)", "holt")])
    mentions = r.mentions(corpus)
    assert mentions.forms == ("dray", "holt", "dray (2)") and not r.unapplied
    entity = r.entity[mentions.form].tolist()
    assert entity[0] != entity[1] == entity[2] == entity[3] and r.moved == {(1, 0): 2, (2, 0): 2}
    assert r.label[entity[3]] == "holt"
    into = resolve(corpus, "keyword", [d("split", "dray", "holt", "s.ris:3")])  # into a form that is there
    assert into.mentions(corpus).form.tolist() == [0, 0, 1, 1]
    gone = resolve(
        corpus,
        "keyword",
        [d("split", "dray", "x", "s.ris:1 | s.ris:99 | t.ris:1"), d("split", "nobody", "x", "s.ris:1")],
    )
    assert ["2 of its 3 records" in gone.unapplied[0][1], "spelled 'nobody'" in gone.unapplied[1][1]] == [True, True]
    assert corpus.of("keyword").form.tolist() == [0, 0, 1, 0], "the corpus itself stays"


@pytest.mark.parametrize(
    ("rule", "becomes"),
    [
        (
            d("merge", "behaviour", "behavior", RULE),
            {"Behaviour of gulls": "Behavior of gulls", "GULL BEHAVIOUR": "GULL BEHAVIOR"},
        ),
        (d("merge", "-isation", "-ization", RULE), {"Colonisation": "Colonization"}),
        (d("merge", "-s", "-", RULE), {"gulls": "gull"}),
        (d("aside", "study | case stud*", "", RULE), {"Study": "", "case studies": ""}),
    ],
)
def test_rules_touch_what_they_say(rule, becomes):
    forms = (
        "Behaviour of gulls",
        "GULL BEHAVIOUR",
        "Colonisation",
        "mechanisation law",
        "Study",
        "case studies",
        "gulls",
        "misbehaviour",
        "as",
        "gull",
        "colonization",
    )
    found = {forms[f]: text for f, text in touched(rule, forms, range(len(forms)))}
    assert {k: found[k] for k in becomes} == becomes and not {
        "misbehaviour",
        "as",
        "mechanisation law" if rule.form[0] == "-" else "",
    } & set(found)
    assert not fault(rule)


@pytest.mark.parametrize(
    "rule",
    [
        d("merge", "-s", "x", RULE),
        d("merge", "a", "A", RULE),
        d("aside", " | * ", "", RULE),
        d("split", "a", "b", RULE),
    ],
)
def test_a_rule_that_cannot_be_is_explained(rule):
    assert fault(rule) and resolved(rule).unapplied[0][1] == fault(rule) and not touched(rule, FORMS, range(5))


def test_rules_merge_name_and_give_way_to_decisions_by_hand():
    corpus = words(["grey seal"], ["gray seal"], ["grey goose"], ["study"])
    rule, aside = d("merge", "grey", "gray", RULE), d("aside", "study", "", RULE)
    r = resolve(corpus, "keyword", [rule, aside])
    assert r.entity[0] == r.entity[1] and r.label[r.entity[0]] == "gray seal" and r.label[r.entity[2]] == "gray goose"
    assert r.aside[r.entity[3]] and not r.aside[r.entity[0]]
    r = resolve(corpus, "keyword", [rule, d("apart", "grey seal", "gray seal")])
    assert r.entity[0] != r.entity[1]
    assert "touches no form" in resolve(corpus, "keyword", [d("aside", "nothing", "", RULE)]).unapplied[0][1]


def test_decisions_csv_reads_back_and_bad_rows_are_listed(tmp_path):
    path = tmp_path / "d.csv"
    good = [d("merge", 'a "quoted", one', "b"), d("aside", "c;d"), Decision("person", "prefer", "x", "y", "", "why")]
    path.write_text(decisions_csv(good), encoding="utf-8", newline="")
    assert read_decisions(path) == ([(2, good[0]), (3, good[1]), (4, good[2])], [])
    path.write_bytes(
        "\ufeffkind;decision;form;preferred;scope\nkeyword;merge;a;b\nplanet;merge;a;b\nkeyword;melt;a;b\nkeyword;merge;a;\nkeyword;merge;-s;x;rule\n".encode()
    )
    found, problems = read_decisions(path)
    assert found == [(2, d("merge", "a", "b"))]
    assert [p.split(":")[0] for p in problems] == [f"d.csv, line {n}" for n in (3, 4, 5, 6)]
    path.write_text("form,to\na,b\n")
    with pytest.raises(UserError, match="kind, decision"):
        read_decisions(path)


def test_a_file_of_decisions_is_sorted_out_against_what_was_made():
    made = [d("merge", "a", "b")]
    new = [
        d("apart", "a", "b"),
        d("aside", "c"),
        d("merge", "b", "a"),
        d("aside", "f"),
        d("split", "d", "x", "s.ris:4 | s.ris:9"),
        Decision("record", "aside", "s.ris:1", note="off"),
        Decision("record", "aside", "s.ris:77"),
        d("aside", "x*y", "", RULE),
    ]
    kept, why = sort_out(CORPUS, made, new)
    assert kept == [new[1], new[4], new[5]]
    assert sorted(why) == [0, 2, 3, 4, 6, 7] and "s.ris:77" in why[6]


@given(st.text(alphabet=st.characters(codec="utf-8"), max_size=200))
def test_any_text_as_a_file_of_decisions_is_read_or_refused_in_words(tmp_path_factory, text):
    path = tmp_path_factory.mktemp("d") / "d.csv"
    path.write_bytes(b"kind,decision,form,preferred\n" + text.encode("utf-8", "replace"))
    try:
        found, problems = read_decisions(path)
    except UserError:
        return
    assert all(one.form and one.kind for _, one in found) and all("line" in p for p in problems)


def test_many_decisions_are_carried_out_in_the_time_of_their_number():
    n = 20_000
    corpus = words(*([f"word {k}"] for k in range(n)))
    chain = [d("merge", f"word {k}", f"word {k + 1}") for k in range(n - 1)]
    r = resolve(corpus, "keyword", [*chain, *(d("apart", "word 0", f"word {k}") for k in range(0))])
    assert len(r.label) == 1 and r.label[0] == f"word {n - 1}" and not r.unapplied
    assert np.array_equal(r.entity, np.zeros(n))


def test_likeness_puts_the_same_words_in_another_order_first():
    forms = ["Holt, P.", "Tamsin Dray", "Dray, T."]
    near = likeness("Dray, Tamsin", forms)
    assert forms[int(np.argmax(near))] == "Tamsin Dray" and near[0] < 60
    assert likeness("x", []).shape == (0,)
