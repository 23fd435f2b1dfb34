"""Terms of texts and the ties between them, against their definitions written plainly over lists of words."""

import csv
import itertools
import re
from collections import Counter
from math import log, log2

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.building import results_of
from umber_knot.cli import main
from umber_knot.corpus.assemble import corpus_of
from umber_knot.corpus.model import Decision, Passage, RawRecord, Source
from umber_knot.corpus.study import Study
from umber_knot.corpus.written import Reading, Written
from umber_knot.errors import UserError
from umber_knot.gather.read import read_corpus, read_file, texts
from umber_knot.lineage.nodes import Node
from umber_knot.lineage.recipe import Recipe, parse_recipe
from umber_knot.reconcile.decisions import resolve
from umber_knot.relate.counting import count
from umber_knot.relate.explaining import Material, explain
from umber_knot.relate.parameters import Relate
from umber_knot.relate.result import Related
from umber_knot.relate.selecting import select
from umber_knot.relate.wording import called, told
from umber_knot.text import terms as finding
from umber_knot.text.quoting import marked, quoted
from umber_knot.text.result import HEADING
from umber_knot.text.terms import find

WORDS = ("brant", "dorrel", "fessin", "gorlam")  # no dictionary has them, so each is its own lemma
SENTENCE = st.lists(st.sampled_from([*WORDS, "the", ",", "-"]), min_size=1, max_size=9)
TEXTS = st.lists(st.lists(SENTENCE, min_size=1, max_size=3), min_size=1, max_size=5)


def said(sentence):
    return " ".join(["The", *sentence]).replace(" - ", "-").replace(" ,", ",").strip(" -,") + "."


def runs_of(sentence):
    """The runs of content words, by hand: what is joined by nothing but spaces or a hyphen."""
    text = said(sentence)
    return [
        re.findall(r"\w+", part)
        for part in re.split(r"[,.]|--+|\s-|-\s|\bthe\b|\bThe\b", text)
        if re.findall(r"\w+", part)
    ]


def written(study):
    return [Written(r, "", "en", " ".join(map(said, sentences)), ()) for r, sentences in enumerate(study)]


def corpus_with(study):
    raw = [RawRecord(k + 1, abstract=w.abstract, year=1990 + k) for k, w in enumerate(written(study))]
    corpus = corpus_of([(Source("s", "s", "RIS", "utf-8", "", len(raw)), raw)])
    found = find(written(study))
    return corpus.knowing({"term": found.mentions}), found


@given(TEXTS)
@settings(max_examples=80)
def test_c_value_and_places_are_those_of_the_definition(study):
    found = find(written(study))
    runs = [run for sentences in study for s in sentences for run in runs_of(s)]
    often = Counter(tuple(run[i : i + n]) for run in runs for n in range(1, 5) for i in range(len(run) - n + 1))

    def value(gram):
        longer = [b for b, f in often.items() if len(b) > len(gram) and f >= 2 and len(b) <= 4 and inside(gram, b)]
        held = sum(often[b] for b in longer) / len(longer) if longer else 0
        return (1 + log2(len(gram))) * (often[gram] - held)

    for form, c in zip(found.forms, found.c_value):
        gram = tuple(form.split())
        assert c == pytest.approx(value(gram), rel=1e-12)
        assert len(gram) == 1 or (often[gram] >= 2 and c > 0)
    # every content word is in one term, in the order of the text
    said_words = [w for sentences in study for s in sentences for run in runs_of(s) for w in run]
    assert [w for f in found.form.tolist() for w in found.forms[f].split()] == said_words
    # entropy over the records that have it
    for k in range(len(found.forms)):
        many = Counter(found.record[found.form == k].tolist())
        total = sum(many.values())
        entropy = -sum(m / total * log(m / total) for m in many.values())
        assert found.evenness[k] == pytest.approx(entropy / log(len(many)) if len(many) > 1 else 0, abs=1e-12)


def inside(part, whole):
    return any(whole[i : i + len(part)] == part for i in range(len(whole) - len(part) + 1))


@given(TEXTS, st.sampled_from(["record", "paragraph", "sentence"]), st.sampled_from(["full", "fractional"]))
@settings(max_examples=60)
def test_terms_that_stand_together(study, within, counting):
    corpus, found = corpus_with(study)
    related = network(corpus, found, Relate(tie="concept", of="term", within=within, counting=counting))
    hubs = {}
    for r, p, s, f in zip(found.record, found.paragraph, found.sentence, found.form):
        hubs.setdefault({"record": (r,), "paragraph": (r, p), "sentence": (r, p, s)}[within], set()).add(int(f))
    weight, times = Counter(), Counter()
    for items in hubs.values():
        for pair in itertools.combinations(sorted(found.forms[f] for f in items), 2):
            weight[pair] += 1 if counting == "full" else 1 / (len(items) - 1)
            times[pair] += 1
    assert ties(related) == {pair: (pytest.approx(w, rel=1e-9), times[pair]) for pair, w in weight.items()}
    records = Counter(form for form in found.forms for _ in {r for r, f in placed(found) if found.forms[f] == form})
    assert dict(zip(related.network.label, related.network.records.tolist())) == records


def placed(found):
    return zip(found.record.tolist(), found.form.tolist())


@given(TEXTS, st.integers(1, 6))
@settings(max_examples=60)
def test_terms_some_words_apart(study, most):
    corpus, found = corpus_with(study)
    related = network(corpus, found, Relate(tie="concept", of="term", within=str(most)))
    weight, times = Counter(), Counter()
    mentions = list(zip(*(c.tolist() for c in (found.record, found.paragraph, found.place, found.length, found.form))))
    for one, other in itertools.combinations(mentions, 2):
        distance = other[2] - (one[2] + one[3] - 1)
        if one[:2] == other[:2] and distance <= most and one[4] != other[4]:
            pair = tuple(sorted(found.forms[m[4]] for m in (one, other)))
            weight[pair] += 1 / distance
            times[pair] += 1
    assert ties(related) == {pair: (pytest.approx(w, rel=1e-9), times[pair]) for pair, w in weight.items()}


def network(corpus, found, sentence, decisions=()):
    """The network, every tie of it the sum of what explains it."""
    known = {"term": resolve(corpus, "term", list(decisions))}
    counted = count(corpus, known, sentence, None, found)
    related = Related(counted, select(corpus, counted, sentence))
    for k in range(len(counted.source)):
        parts = explain(
            Material(corpus, known, None, sentence, found), counted, int(counted.source[k]), int(counted.target[k])
        )
        assert len(parts) == counted.count[k]
        assert sum(p.share for p in parts) == pytest.approx(counted.weight[k], rel=1e-9)
    return related


def ties(related):
    n = related.network
    return {
        tuple(sorted((n.label[s], n.label[t]))): (pytest.approx(w, rel=1e-9), int(c))
        for s, t, w, c in zip(n.source, n.target, n.weight, n.count)
    }


def test_merged_terms_are_one_and_what_is_set_aside_is_no_item():
    corpus, found = corpus_with([[["brant", "the", "dorrel"]], [["brant", "the", "fessin"]]])
    decisions = [Decision("term", "merge", "fessin", "dorrel"), Decision("term", "aside", "gorlam")]
    related = network(corpus, found, Relate(tie="concept", of="term"), decisions)
    assert ties(related) == {("brant", "dorrel"): (2, 2)}
    aside = network(corpus, found, Relate(tie="concept", of="term"), [Decision("term", "aside", "brant")])
    assert aside.network.ties == 0
    assert ("set aside", 3, 2, "terms") in aside.filtered.steps


def test_a_term_split_off_in_some_records_stands_there_as_another():
    corpus, found = corpus_with([[["brant", "the", "dorrel"]], [["brant", "the", "dorrel"]]])
    split = Decision("term", "split", "brant", "brant (bird)", corpus.anchor(1))
    related = network(corpus, found, Relate(tie="concept", of="term"), [split])
    assert set(ties(related)) == {("brant", "dorrel"), ("brant (bird)", "dorrel")}


def test_only_the_best_terms_are_kept_and_it_is_said():
    corpus, found = corpus_with(
        [[["brant", "the", "dorrel"]], [["brant", "the", "fessin"]], [["brant", "the", "dorrel"]]]
    )
    related = network(corpus, found, Relate(tie="concept", of="term", best=2))
    assert sorted(related.network.label) == ["dorrel", "fessin"]  # brant is in every record
    merit = dict(zip(found.forms, found.merit()))
    assert merit == {"brant": 0, "dorrel": 2 * log2(3 / 2), "fessin": log2(3)}
    assert ("not among the 2 best terms", 3, 2, "terms") in related.filtered.steps


def test_a_heading_counts_in_its_paragraphs_and_in_no_sentence():
    passages = (Passage("Brant stood by the dorrel.", 1, "Fessin"), Passage("The gorlam ran.", 2, "Fessin"))
    raw = [RawRecord(1, title="", passages=passages)]
    corpus = corpus_of([(Source("s", "s", "Markdown", "utf-8", "", 1), raw)])
    found = find([Written(0, "", "en", "", passages)])
    corpus = corpus.knowing({"term": found.mentions})
    assert (found.sentence == HEADING).sum() == 2
    assert found.c_value[list(found.forms).index("fessin")] == 1  # one heading, however many paragraphs it heads
    within = {
        w: ties(network(corpus, found, Relate(tie="concept", of="term", within=w))) for w in ("sentence", "paragraph")
    }
    assert ("brant", "fessin") in within["paragraph"] and ("fessin", "gorlam") in within["paragraph"]
    assert not any("fessin" in pair for pair in within["sentence"])


def test_words_are_read_in_the_language_that_is_said_or_found():
    found = find(
        [
            Written(0, "Die Mühlen am Fluss", "", "", ()),
            Written(1, "The mills", "eng", "", ()),
            Written(2, "潮の水車とポンプ", "", "", ()),
            Written(3, "潮汐磨坊", "chi", "", ()),
            Written(4, "", "", "", ()),
            Written(5, "Molino", "es", "The mill is in the marsh and it was not new.", ()),
        ]
    )
    by_record = {r: [found.forms[f] for f in found.form[found.record == r]] for r in range(6)}
    assert by_record[0][0] == "Mühle" and by_record[1] == ["mill"]
    assert by_record[2] == ["潮", "水車", "ポンプ"]
    assert by_record[3] == ["潮汐", "汐磨", "磨坊"]
    assert by_record[4] == []
    assert "the" not in by_record[5] and "marsh" in by_record[5]  # an article's language is not its abstract's
    assert "1 in German" in found.told and "read in runs of letters" in found.told


def test_both_cores_read_the_same_terms(monkeypatch):
    study = written([[[w, "the", WORDS[k % 4]]] for k in range(40) for w in WORDS])
    alone = find(study)
    monkeypatch.setattr(finding, "SPREAD", 10)
    monkeypatch.setattr(finding, "BLOCK", 30)
    spread = find(study, len(study))
    assert spread.forms == alone.forms and spread.told == alone.told
    for name in ("c_value", "record", "paragraph", "sentence", "place", "form"):
        assert np.array_equal(getattr(spread, name), getattr(alone, name))


RIS = """TY  - JOUR
TI  - Tide mills
AB  - The tide mill stood by the salt marsh. Sluice gates failed.
DO  - 10.5555/1
PY  - 1990
ER  -
TY  - JOUR
TI  - Salt marshes
AB  - The salt marsh and the tide mill share sluice gates.
PY  - 1991
ER  -
"""
NO_ABSTRACT = "TY  - JOUR\nTI  - Tide mills\nDO  - 10.5555/1\nPY  - 1990\nER  -\n"


def test_a_study_and_its_files_say_the_same_and_the_finding_with_an_abstract_speaks(tmp_path):
    (tmp_path / "a.ris").write_text(NO_ABSTRACT, encoding="utf-8")
    (tmp_path / "b.ris").write_text(RIS, encoding="utf-8")
    paths = [tmp_path / "a.ris", tmp_path / "b.ris"]
    corpus = read_corpus(paths)
    from_files = list(texts(paths, corpus))
    with Study.create(tmp_path / "s.umber") as study:
        study.add_sources([read_file(p) for p in paths])
        kept = study.corpus()
        assert list(study.texts(kept)) == from_files
        assert [study.text_of(kept, r) for r in range(len(kept))] == from_files
    assert len(corpus) == 2 and all(w.abstract for w in from_files)
    assert quoted(from_files[0], 1, 1) == "Sluice gates failed."
    assert quoted(from_files[0], 1, -1) == from_files[0].abstract
    assert quoted(from_files[0], 7, 0) == quoted(from_files[0], 1, 9) == ""
    assert [piece for piece, mark in marked("Sluice gates failed.", ["sluice gate"]) if mark] == ["Sluice", "gates"]


def test_a_recipe_writes_the_network_of_terms(tmp_path):
    (tmp_path / "b.ris").write_text(RIS, encoding="utf-8")
    recipe = '[gather]\nsources = ["b.ris"]\n[relate]\ntie = "concept"\nof = "term"\nwithin = 3\nterms = ["abstract"]\n'
    (tmp_path / "r.toml").write_text(recipe, encoding="utf-8")
    assert main(["run", str(tmp_path / "r.toml"), "--out", str(tmp_path / "out"), "--quiet"]) == 0
    with (tmp_path / "out" / "ties.csv").open(encoding="utf-8", newline="") as file:
        rows = {tuple(sorted((row["source"], row["target"]))): float(row["weight"]) for row in csv.DictReader(file)}
    assert rows["salt marsh", "tide mill"] == pytest.approx(1 / 3)  # "stood by the" lies between, once; then "and the"
    assert rows["salt marsh", "sluice gate"] == 1
    assert "at most 3 words apart" in (tmp_path / "out" / "methods.md").read_text(encoding="utf-8")


def test_words_of_the_recipe_and_what_they_say():
    recipe = parse_recipe('[relate]\ntie = "concept"\nof = "term"\nwithin = 5\nbest = 40\n')
    assert recipe.relate.window == 5 and parse_recipe(recipe.toml()) == recipe
    assert "within" not in Recipe().toml() and "terms" not in Recipe().toml()
    assert (
        told(recipe.relate)
        == "Two terms are tied where they stand at most 5 words apart, each time by 1 over their distance."
    )
    assert called(recipe.relate) == "Terms within 5 words"
    assert called(Relate(tie="concept", of="term")) == "Terms in one sentence"
    for wrong in (
        'tie = "concept"',
        'tie = "concept"\nof = "term"\nwithin = "page"',
        'tie = "concept"\nof = "term"\nwithin = 0',
        'tie = "concept"\nof = "term"\nwithin = 5\ncounting = "fractional"',
        'tie = "concept"\nof = "term"\nwithin = 5\nnormalise = "cosine"',
        'tie = "concept"\nof = "term"\nterms = ["notes"]',
    ):
        with pytest.raises(UserError) as error:
            parse_recipe(f"[relate]\n{wrong}\n")
        assert error.value.cure


def test_terms_are_found_once_for_all_strands(tmp_path):
    corpus = corpus_of([(Source("s", "s", "RIS", "utf-8", "", 1), [RawRecord(1, title="Tide mills of the marsh")])])
    recipe = Recipe().changed("relate", tie="concept", of="term").changed("group", runs=0)
    recipe, number = recipe.with_another(1, tie="two-mode", of="term", second="record")
    _, results = results_of(
        corpus, recipe=recipe, reading=Reading(lambda c: [Written(0, c.title[0], "en", "", ())], lambda c: ())
    )
    assert sorted(results[Node("relate", 1)].network.label) == ["marsh", "mill", "tide"]
    assert set(results[Node("relate", number)].network.kinds) == {"term", "record"}
    assert [node for node in results if node.stage == "terms"] == [Node("terms")]
