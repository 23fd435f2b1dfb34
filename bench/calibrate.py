"""Fit the weights and the calibration of ``resources/chances.json`` on planted corpora: ``./umber bench calibrate``.

Seeds up to 99 are for fitting; judging uses seeds from 100 on only (bench/reconcile.py).
"""

from __future__ import annotations

import json
from functools import partial
from pathlib import Path

import numpy as np
from judging import Truth, parted_well
from numpy.typing import NDArray
from scipy.optimize import minimize
from variants import Planted, planted

from umber_knot.corpus.assemble import corpus_of
from umber_knot.corpus.model import Corpus, Source
from umber_knot.reconcile import cited, namesakes, people, terms
from umber_knot.reconcile.chances import Chance
from umber_knot.reconcile.sets import joined_sets, pairwise

CHANCES = Path(__file__).parents[1] / "src" / "umber_knot" / "resources" / "chances.json"
#: (people, records, seed) of the corpora that the numbers are fitted on.
FITTED = (
    (800, 1500, 1),
    (1500, 4000, 2),
    (4000, 8000, 3),
    (3000, 12000, 4),
    (12000, 24000, 5),
    (900, 1200, 6),
    (1500, 30000, 7),
)
Numbers = NDArray[np.float64]


def corpus(plan: Planted) -> Corpus:
    return corpus_of([(Source("planted", "", "", "", "", len(plan.records)), plan.records)])


def logistic(
    features: list[dict[str, Numbers]], same: list[NDArray[np.bool_]], decay: float = 1e-5
) -> dict[str, float]:
    """Weights of a logistic regression, lightly held back (ridge), rounded so that the file is stable."""
    names = sorted(features[0])
    x = np.concatenate([np.column_stack([np.ones(len(y)), *(f[n] for n in names)]) for f, y in zip(features, same)])
    y = np.concatenate(same).astype(float)

    def loss(w: Numbers) -> tuple[float, Numbers]:
        z = x @ w
        p = 1 / (1 + np.exp(-np.clip(z, -40, 40)))
        gradient = x.T @ (p - y) / len(y)
        gradient[1:] += 2 * decay * w[1:]
        return float(np.mean(np.logaddexp(0, z) - y * z) + decay * (w[1:] ** 2).sum()), gradient

    w = minimize(loss, np.zeros(x.shape[1]), jac=True, method="L-BFGS-B", options={"maxiter": 3000}).x
    return {name: round(float(v), 3) for name, v in zip(["base", *names], w) if abs(v) >= 0.0005}


def isotonic(odds: Numbers, right: NDArray[np.bool_], points: int = 24) -> list[list[float]]:
    """Rising probability by log-odds (pool adjacent violators on quantile bins), ends kept off 0 and 1."""
    order = np.argsort(odds, kind="stable")
    value: list[float] = []
    size: list[int] = []
    middle: list[float] = []
    for part in np.array_split(order, min(points, max(1, len(order) // 20))):
        value.append((right[part].sum() + 0.5) / (len(part) + 1))
        size.append(len(part))
        middle.append(float(np.median(odds[part])))
        while len(value) > 1 and value[-2] >= value[-1]:
            v, n, m = value.pop(), size.pop(), middle.pop()
            value[-1] = (value[-1] * size[-1] + v * n) / (size[-1] + n)
            middle[-1] = (middle[-1] * size[-1] + m * n) / (size[-1] + n)
            size[-1] += n
    return [[round(m, 3), round(min(max(v, 0.01), 0.995), 4)] for m, v in zip(middle, value)]


def fit_people() -> dict[str, dict[str, object]]:
    read = []
    for count, records, seed in FITTED:
        plan = planted(count, records, seed, references=False)
        whole = corpus(plan)
        mentions = whole.of("person")
        found = people.people(whole, mentions, lambda: None)
        read.append((found, people.compared(found), Truth.of(mentions.forms, plan.truth["person"])))
    first = Chance(
        logistic([p.features for _, p, _ in read], [t.same(p.a, p.b) for _, p, t in read]), np.zeros(0), np.zeros(0)
    )
    rounds = []
    for found, pairs, truth in read:
        never = pairwise(found.contradict)
        grouping = people.first_round(found, pairs, people.weighed(first, pairs), (), never)
        between, _ = people.pooled(found, pairs, grouping.group, len(grouping.forms))
        heads = np.array([most_common(truth, forms) for forms in grouping.forms])
        rounds.append(
            (truth, grouping, between, never, found.around.records, truth.same(heads[between.a], heads[between.b]))
        )
    second = Chance(logistic([r[2].features for r in rounds], [r[5] for r in rounds]), np.zeros(0), np.zeros(0))
    odds, right = [], []
    for truth, grouping, between, never, records, _ in rounds:
        for one in people.second_round(grouping, between, people.weighed(second, between), records, never):
            ok, of = truth.split(one.forms)
            odds.append(one.odds)
            right.append(ok == of)
    return {
        "person": {"weights": first.weights},
        "person pooled": {"weights": second.weights, "calibration": isotonic(np.array(odds), np.array(right))},
    }


def most_common(truth: Truth, forms: tuple[int, ...]) -> int:
    """The form of a group that stands for what most of the group stands for."""
    main = truth.main[list(forms), 0]
    return forms[int(np.argmax([(main == m).sum() for m in main]))]


def fit_terms(kind: str) -> dict[str, dict[str, object]]:
    read = []
    for count, records, seed in FITTED:
        plan = planted(count, records, seed, references=kind == "reference")
        whole = corpus(plan)
        mentions = whole.of(kind)
        if kind == "reference":
            found = cited.cited(whole, mentions)
            pairs = cited.compared_references(found)
        else:
            found = terms.terms(whole, mentions, kind)
            pairs = terms.compared_terms(found)
        read.append((found, pairs, Truth.of(mentions.forms, plan.truth[kind]), mentions.counts()))
    fitted = Chance(
        logistic([p.features for _, p, *_ in read], [t.same(p.a, p.b) for _, p, t, _ in read]), np.zeros(0), np.zeros(0)
    )
    odds, right = [], []
    for found, pairs, truth, records in read:
        never = pairwise(found.contradict)
        for one in joined_sets((pairs.a, pairs.b), fitted.odds(pairs.features), records, (), never):
            ok, of = truth.split(one.forms)
            odds.append(one.odds)
            right.append(ok == of)
    return {kind: {"weights": fitted.weights, "calibration": isotonic(np.array(odds), np.array(right))}}


def fit_namesakes() -> dict[str, dict[str, object]]:
    features, right = [], []
    for count, records, seed in FITTED:
        plan = planted(count, records, seed, references=False, namesakes=0.04)
        whole = corpus(plan)
        mentions = whole.of("person")
        for parting in namesakes.partings(whole, mentions, people.people(whole, mentions, lambda: None)):
            features.append(parting.features)
            right.append(parted_well(plan, mentions.forms[parting.form], parting.groups))
    columns = {name: np.array([f[name] for f in features]) for name in features[0]}
    weights = logistic([columns], [np.array(right)], 1e-3)
    odds = Chance(weights, np.zeros(0), np.zeros(0)).odds(columns)
    return {"namesake": {"weights": weights, "calibration": isotonic(odds, np.array(right))}}


def calibrate() -> None:
    fitted = json.loads(CHANCES.read_text(encoding="utf-8"))
    for fit in FITS:
        fitted |= fit()
    text = (
        "{\n"
        + ",\n".join(f" {json.dumps(kind)}: {json.dumps(fitted[kind], sort_keys=True)}" for kind in sorted(fitted))
        + "\n}\n"
    )
    CHANCES.write_text(text, encoding="utf-8")


FITS = (
    fit_people,
    fit_namesakes,
    partial(fit_terms, "keyword"),
    partial(fit_terms, "venue"),
    partial(fit_terms, "institution"),
    partial(fit_terms, "reference"),
)
if __name__ == "__main__":
    calibrate()
