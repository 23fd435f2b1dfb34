"""Reading every kind of source: time against the bare parser of its format, and memory of very large imports."""

from __future__ import annotations

import gzip
import json
import random
import subprocess
import sys
import time
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

from corpora import name, write_ris

TIMED = """
import sys, time, resource; from pathlib import Path
from umber_knot.corpus.study import Study; from umber_knot.gather.read import read_file, readers
readers()
began = time.perf_counter()
with Study.create(Path(sys.argv[2])) as study:
    step, failed = study.add_sources([read_file(Path(sys.argv[1]))]); assert not failed, failed
    print(time.perf_counter() - began, resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024, study.sources()[0].records)
"""
#: The bare parser of each format: the package we use where there is one, else the standard library's.
BARE = {
    "RIS": "import rispy; rispy.loads(path.read_text(encoding='utf-8'))",
    "BibTeX": "import logging, bibtexparser; logging.disable(50); bibtexparser.parse_string(path.read_text(encoding='utf-8'))",
    "MEDLINE": "plain(r'^([A-Z]{2,4}) *- ?(.*)$', 'PMID')",
    "field-tagged": "plain(r'^([A-Z][A-Z0-9])(?: (.*))?$', 'PT')",
    "CSL-JSON": "import json; json.loads(path.read_text(encoding='utf-8'))",
    "Crossref": "import json; json.loads(path.read_text(encoding='utf-8'))",
    "OpenAlex": "import json; [json.loads(line) for line in path.open(encoding='utf-8')]",
    "MARC 21": "import pymarc; list(pymarc.MARCReader(path.open('rb'), to_unicode=True))",
    "MARCXML": "import pymarc; pymarc.parse_xml_to_array(str(path))",
    "MODS": "trees('mods')",
    "Dublin Core": "trees('dc')",
    "JATS": "trees('article')",
    "MEDLINE XML": "from lxml import etree; [e.clear() for _, e in etree.iterparse(str(path)) if e.tag == 'MedlineCitation']",
    "CSV": "import csv; list(csv.DictReader(path.open(encoding='utf-8', newline='')))",
    "mbox": "import mailbox; [(m['from'], m['to'], m.get_payload(decode=True)) for m in mailbox.mbox(path)]",
    "PDF": "import pypdfium2; pdf = pypdfium2.PdfDocument(path); [page.get_textpage().get_text_range() for page in pdf]",
}
PLAIN = """
import sys, time, re; from pathlib import Path; from xml.etree import ElementTree
path = Path(sys.argv[1])
def plain(pattern, begins):
    tag, found, last = re.compile(pattern), [], None
    for line in path.open(encoding='utf-8'):
        m = tag.match(line)
        if m:
            if m[1] == begins: found.append({})
            if found: last = found[-1].setdefault(m[1], []); last.append((m[2] or '').strip())
        elif last and line.strip(): last[-1] += ' ' + line.strip()
def trees(name):
    for _, element in ElementTree.iterparse(path):
        if element.tag.endswith(name): [(e.tag, e.text) for e in element.iter()]; element.clear()
began = time.perf_counter()
%s
print(time.perf_counter() - began)
"""


def say(label: str, text: str, limit: str, ok: bool) -> None:
    print(f"{'ok  ' if ok else 'MISS'} {label:16} {text}   (asked: {limit})", flush=True)


def records(count: int) -> Iterator[Any]:
    """Made-up records for the formats we write ourselves."""
    from umber_knot.corpus.model import RawRecord

    rng = random.Random(11)
    people = [f"{name(rng, 4)}, {name(rng, 2)} {chr(65 + rng.randrange(26))}." for _ in range(15_000)]
    words = [f"{name(rng, 2).lower()} {name(rng, 3).lower()}" for _ in range(1200)]
    filler = [name(rng, rng.randint(1, 4)).lower() for _ in range(3000)]
    for k in range(count):
        year = rng.randint(1980, 2025)
        yield RawRecord(
            1,
            entry=f"r{k}",
            type="article",
            title=" ".join(rng.choices(filler, k=9)).capitalize(),
            year=year,
            date=str(year),
            doi=f"10.99999/x.{k}",
            abstract=" ".join(rng.choices(filler, k=180)),
            persons=list(dict.fromkeys(rng.choices(people, k=3))),
            keywords=list(dict.fromkeys(rng.choices(words, k=6))),
            venue=f"Journal {k % 40}",
            volume=str(year - 1970),
            pages=f"{k % 300}-{k % 300 + 9}",
        )


def write_formats(folder: Path, count: int) -> dict[str, Path]:
    """A file of every bibliographic format."""
    from pymarc import parse_xml_to_array

    from umber_knot.demo.catalogue import dublin_core, marcxml, mods
    from umber_knot.gather.formats import bibtex, csl_json, table
    from umber_knot.markup import xml

    made = list(records(count))
    paths = {}

    def put(label: str, file: str, text: str | bytes) -> None:
        paths[label] = folder / file
        paths[label].write_bytes(text.encode() if isinstance(text, str) else text)

    write_ris(folder / "a.ris", count, 15_000)
    paths["RIS"] = folder / "a.ris"
    put("BibTeX", "a.bib", "".join(bibtex.write(iter(made))))
    put("CSL-JSON", "csl.json", "".join(csl_json.write(iter(made))))
    put("CSV", "a.csv", "".join(table.write(iter(made))))
    put(
        "MEDLINE",
        "a.nbib",
        "\n".join(
            f"PMID- {k}\nTI  - {r.title}\n"
            + "".join(f"FAU - {p}\n" for p in r.persons)
            + f"DP  - {r.year}\nJT  - {r.venue}\nLID - {r.doi} [doi]\nVI  - {r.volume}\n"
            f"PG  - {r.pages}\n" + "".join(f"OT  - {w}\n" for w in r.keywords) + f"AB  - {r.abstract}\n"
            for k, r in enumerate(made)
        ),
    )
    put(
        "field-tagged",
        "tagged.txt",
        "FN x\nVR 1.0\n"
        + "".join(
            f"PT J\nAU {chr(10).join(p if k == 0 else '   ' + p for k, p in enumerate(r.persons))}\nTI {r.title}\nSO {r.venue}\nDE {'; '.join(r.keywords)}\nAB {r.abstract}\n"
            f"PY {r.year}\nVL {r.volume}\nDI {r.doi}\nUT x:{k}\nER\n\n"
            for k, r in enumerate(made)
        )
        + "EF\n",
    )
    put(
        "Crossref",
        "crossref.json",
        json.dumps(
            {
                "message-type": "work-list",
                "message": {
                    "items": [
                        {
                            "DOI": r.doi,
                            "type": "journal-article",
                            "title": [r.title],
                            "author": [{"family": p.split(", ")[0], "given": p.split(", ")[1]} for p in r.persons],
                            "issued": {"date-parts": [[r.year]]},
                            "container-title": [r.venue],
                            "abstract": r.abstract,
                            "is-referenced-by-count": 3,
                            "reference-count": 0,
                        }
                        for r in made
                    ]
                },
            }
        ),
    )
    put(
        "OpenAlex",
        "openalex.jsonl",
        "".join(
            json.dumps(
                {
                    "id": f"https://openalex.org/W{k}",
                    "doi": r.doi,
                    "title": r.title,
                    "publication_year": r.year,
                    "authorships": [{"author": {"display_name": p}} for p in r.persons],
                    "keywords": [{"display_name": w} for w in r.keywords],
                    "abstract_inverted_index": {w: [n] for n, w in enumerate(r.abstract.split())},
                    "primary_location": {"source": {"display_name": r.venue}},
                }
            )
            + "\n"
            for k, r in enumerate(made)
        ),
    )
    put(
        "MARCXML",
        "marc.xml",
        '<collection xmlns="http://www.loc.gov/MARC21/slim">\n'
        + "\n".join(marcxml(r).replace(' xmlns="http://www.loc.gov/MARC21/slim"', "") for r in made)
        + "\n</collection>",
    )
    put("MARC 21", "a.mrc", b"".join(r.as_marc() for r in parse_xml_to_array(str(paths["MARCXML"]))))
    put(
        "MODS",
        "mods.xml",
        '<modsCollection xmlns="http://www.loc.gov/mods/v3">\n' + "\n".join(map(mods, made)) + "\n</modsCollection>",
    )
    put("Dublin Core", "dc.xml", "<records>\n" + "\n".join(map(dublin_core, made)) + "\n</records>")
    put(
        "JATS",
        "jats.xml",
        "<articles>\n"
        + "\n".join(
            f'<article><front><journal-meta><journal-title>{r.venue}</journal-title></journal-meta><article-meta><article-id pub-id-type="doi">{r.doi}</article-id>'
            f"<title-group><article-title>{xml(r.title)}</article-title></title-group><contrib-group>"
            + "".join(
                f'<contrib contrib-type="author"><name><surname>{p.split(", ")[0]}</surname><given-names>{p.split(", ")[1]}</given-names></name></contrib>'
                for p in r.persons
            )
            + f"</contrib-group><pub-date><year>{r.year}</year></pub-date><abstract><p>{r.abstract}</p></abstract></article-meta></front></article>"
            for r in made
        )
        + "\n</articles>",
    )
    put("MEDLINE XML", "medline.xml", "<Set>\n" + "\n".join(medline_xml(r, k) for k, r in enumerate(made)) + "\n</Set>")
    return paths


def medline_xml(r: Any, k: int) -> str:
    """A record as MEDLINE has it, with addresses and twenty references."""
    people = "".join(
        f"<Author><LastName>{family}</LastName><ForeName>{given}</ForeName><AffiliationInfo><Affiliation>Department of {r.keywords[0]}, "
        f"University of {family}, {k % 90} Quay, Oslo, Norway.</Affiliation></AffiliationInfo></Author>"
        for family, given in (p.split(", ") for p in r.persons)
    )
    cited = "".join(
        f"<Reference><Citation>{r.venue}. {1990 + n};{n}(2):{k % 300}-{n}</Citation><ArticleIdList><ArticleId IdType='doi'>10.99999/x.{k - n}</ArticleId>"
        "</ArticleIdList></Reference>"
        for n in range(20)
    )
    words = "".join(f"<Keyword>{word}</Keyword>" for word in r.keywords)
    return (
        f"<MedlineCitation><PMID>{k}</PMID><Article><Journal><Title>{r.venue}</Title><JournalIssue><Volume>{r.volume}</Volume><PubDate><Year>{r.year}</Year>"
        f"</PubDate></JournalIssue></Journal><ArticleTitle>{r.title}</ArticleTitle><Abstract><AbstractText>{r.abstract}</AbstractText></Abstract>"
        f"<AuthorList>{people}</AuthorList></Article><KeywordList>{words}</KeywordList><ReferenceList>{cited}</ReferenceList></MedlineCitation>"
    )


def write_mail(path: Path, count: int) -> None:
    """A mailbox of made-up answers and answers to answers."""
    rng = random.Random(3)
    people = [(f"{name(rng, 2)} {name(rng, 3)}", f"p{k}@brackwater.example") for k in range(300)]
    filler = [name(rng, rng.randint(1, 4)).lower() for _ in range(2000)]
    with path.open("w", encoding="utf-8") as out:
        for k in range(count):
            (a, x), (b, y), (c, z) = rng.choices(people, k=3)
            body = "\n".join(" ".join(rng.choices(filler, k=11)) for _ in range(25))
            out.write(
                f"From {x} Mon Mar  4 10:11:12 2019\nMessage-ID: <m{k}@brackwater.example>\nReferences: <m{k // 3}@brackwater.example>\nDate: Mon, 4 Mar 2019 10:11:12 +0100\n"
                f"From: {a} <{x}>\nTo: {b} <{y}>, {c} <{z}>\nSubject: Re: {filler[k % 2000]}\nReceived: from a by b; Mon, 4 Mar 2019 10:11:12 +0100\n"
                f"MIME-Version: 1.0\nContent-Type: text/plain; charset=utf-8\n\n{body}\n\nOn Monday {b} wrote:\n> {body[:200]}\n\n-- \n{a}\n\n"
            )


def write_pdf(path: Path, pages: int) -> None:
    """A PDF of two columns a page."""
    from umber_knot.demo.documents import pdf

    rng = random.Random(5)
    filler = [name(rng, rng.randint(1, 4)).lower() for _ in range(2000)]
    text = [" ".join(rng.choices(filler, k=90)).capitalize() + "." for _ in range(int(pages * 6.5))]
    path.write_bytes(pdf("Made up", "Nobody", text, "Running head"))


def compare(label: str, path: Path, folder: Path, rounds: int = 3) -> None:
    """One file into a study against its bare parser: fresh processes, by turns, the best of a few rounds."""
    ours, bare = [], []
    study = folder / "bench.umber"
    for _ in range(rounds):
        for part in (study, Path(f"{study}-wal"), Path(f"{study}-shm")):
            part.unlink(missing_ok=True)
        bare.append(float(run(PLAIN % BARE[label], path)[0]))
        ours.append(float(run(TIMED, path, study)[0]))
    took, alone = min(ours), min(bare)
    say(label, f"{took:.2f} s against {alone:.2f} s: {took / alone:.2f}×", "at most 2×", took <= 2 * alone)


def run(code: str, *arguments: Path) -> list[str]:
    done = subprocess.run(
        [sys.executable, "-c", code, *map(str, arguments)], check=True, capture_output=True, text=True
    )
    return done.stdout.split()


def bench_formats(folder: Path) -> None:
    """Every bibliographic format, 10,000 records with abstracts."""
    for label, path in write_formats(folder, 10_000).items():
        compare(label, path, folder)


def bench_packed(folder: Path) -> None:
    """A compressed file takes no more than its unpacking longer."""
    plain, packed = folder / "a.ris", folder / "a.ris.gz"
    write_ris(plain, 20_000, 15_000)
    packed.write_bytes(gzip.compress(plain.read_bytes(), 6))
    took: dict[Path, float] = {plain: 1e9, packed: 1e9}
    unpacking = 1e9
    for round_ in range(5):
        for path in took:
            took[path] = min(took[path], float(run(TIMED, path, folder / f"{path.name}{round_}.umber")[0]))
        began = time.perf_counter()
        gzip.decompress(packed.read_bytes())
        unpacking = min(unpacking, time.perf_counter() - began)
    more = took[packed] - took[plain]
    say("gzip", f"{more:.2f} s more, {unpacking:.2f} s to unpack", "no more than unpacking", more <= 1.1 * unpacking)


def bench_mail(folder: Path) -> None:
    """20,000 mails of an mbox."""
    write_mail(folder / "a.mbox", 20_000)
    compare("mbox", folder / "a.mbox", folder)


def bench_pdf(folder: Path) -> None:
    """500 pages of PDF."""
    write_pdf(folder / "a.pdf", 500)
    compare("PDF", folder / "a.pdf", folder)


OPEN = """
import sys, time; from pathlib import Path
from umber_knot.corpus.study import Study
began = time.perf_counter()
with Study.open(Path(sys.argv[1])) as study: corpus = study.corpus()
print(time.perf_counter() - began, len(corpus))
"""


def bench_large(folder: Path) -> None:
    """100,000 records with abstracts; 1,000,000 records; and opening them again."""
    for count, words, limit in ((100_000, 180, 1.5), (1_000_000, 10, 6.0)):
        path, study = folder / "large.ris", folder / "large.umber"
        for part in (study, Path(f"{study}-wal"), Path(f"{study}-shm")):
            part.unlink(missing_ok=True)
        write_ris(path, count, count // 3, groups=400, abstract_words=words)
        seconds, peak, found = map(float, run(TIMED, path, study))
        say(
            "memory",
            f"{found:,.0f} records in {seconds:.0f} s, at most {peak / 1024:.2f} GB",
            f"under {limit:g} GB",
            peak / 1024 < limit,
        )
        opened, _ = map(float, run(OPEN, study))
        say("open", f"{found:,.0f} records in {opened:.2f} s", "3 s for 1,000,000", opened <= 3)


BENCHES: dict[str, Callable[[Path], None]] = {
    "formats": bench_formats,
    "packed": bench_packed,
    "mail": bench_mail,
    "pdf": bench_pdf,
    "large": bench_large,
}
