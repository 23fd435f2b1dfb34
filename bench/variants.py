"""Made-up corpora with planted variants and their truth, for judging suggestions; nothing in them is real.

What varies is taken from how exports differ, not from what the scorer looks at: every record comes out of one of
several databases that write names their own way, people change institution, name and spelling over a career, and
near misses are planted beside the variants. docs/reconciling.md lists all of it.
"""

from __future__ import annotations

import random
import unicodedata
from collections import Counter, defaultdict
from dataclasses import dataclass, field

from umber_knot.corpus.model import RawRecord

# -- people


@dataclass
class Culture:
    """Where names come from: ``family`` and ``given`` are drawn with falling frequency; ``way`` says how they are
    written."""

    share: float
    family: list[str]
    given: list[str]
    way: str = "plain"
    skew: float = 0.7


def _joined(starts: str, ends: str) -> list[str]:
    return [a + b for a in starts.split() for b in ends.split()]


_PLAIN = (
    "Adam Alice Amos Anna Arthur Beth Brian Carol Cecil Clare Colin Daisy Daniel David Diana Edith Edward Ellen Emma Eric "
    "Esther Frances Frank George Grace Harold Harriet Helen Henry Ian Irene Jack James Jane Janet Jean Joan John Joseph Julia "
    "Karen Kate Laura Leo Lewis Lucy Margaret Mark Martha Martin Mary Michael Nancy Neil Nora Oliver Oscar Patrick Paul Peter "
    "Philip Rachel Ralph Rebecca Robert Roger Ruth Samuel Sarah Simon Stella Stephen Susan Thomas Tim Vera Walter William"
).split()
CULTURES = {
    "plain": Culture(
        0.30,
        _joined(
            "Ash Bar Birch Black Brad Brook Cald Carl Clay Crow Dar East Elm Fair Farn Gran Hal Hart Hazel Hol Kirk Lang Lin Mar Mill "
            "New Nor Oak Pen Red Rid Ros Shel Stan Thorn Wal Wes Whit Win Wood",
            "bank by croft den field ford ham land ley man mere ridge ton wick worth",
        ),
        _PLAIN,
    ),
    "north": Culture(
        0.12,
        _joined(
            "Ås Berg Bjør Dahl Eng Fjell Grøn Häll Holm Kjær Lind Lund Møl Nord Ny Öst Sjö Skov Strøm Sund Ting Val Vest Åker",
            "berg gaard gren lund mark qvist sen sson stad ström strup vik",
        ),
        "Åse Anders Bjørn Einar Erik Gösta Gunnar Håkon Ingrid Jens Jörgen Kari Kåre Lars Liv Mads Märta Niels Øystein Ragnhild "
        "Rune Sigrid Søren Sven Thorbjørn Tove Ulla Yngve".split(),
    ),
    "german": Culture(
        0.10,
        _joined(
            "Alt Bäck Baum Burg Eich Feld Groß Grün Häus Hein Jäg Kö Kraus Krüg Lang Linden Müll Neu Ober Rös Schäf Schön Stein Strauß "
            "Wald Weiß Wolf",
            "bach berger ler mann meier ner stein ter er thal",
        ),
        "Andreas Anke Bernd Birgit Christoph Dörte Elke Franz Fritz Günther Hans Heinz Ilse Jürgen Karl-Heinz Käthe Klaus Lutz "
        "Matthias Monika Norbert Petra Rolf Sabine Sören Ursula Uwe Wolfgang".split(),
    ),
    "dutch": Culture(
        0.08,
        [
            f"{p} {n}".strip()
            for p in ("van der", "van den", "de", "van", "ter", "van 't", "")
            for n in _joined(
                "Berk Bos Broek Dijk Haag Heuv Hoek Koop Kuip Laan Meer Molen Oord Steen Velden Wal Zand",
                "hof huis man mans el er veld stra",
            )
        ],
        "Anneke Bart Cees Dirk Els Femke Gerrit Hendrik Jan Jan-Willem Joost Kees Lotte Maaike Marijke Pieter Ruud Sanne Teun Willem Wouter".split(),
        "particle",
    ),
    "iberian": Culture(
        0.12,
        _joined(
            "Alv Barr Cald Cam Carr Domín Est Fern Garr Gut Herr Jim Lóp Mart Men Mor Nav Ort Peñ Rodr Sal Sánch Vald Vil",
            "ado ales ández ano era ero es eza illo ín oso",
        ),
        "Álvaro Ana Andrés Beatriz Carlos Carmen Diego Elena Fernando Gonzalo Inés Isabel Javier João Joaquín José José-Luis Juan "
        "Lucía Luis Manuel María Marta Miguel Paula Pedro Raúl Rocío Teresa Vicente".split(),
        "double",
        0.9,
    ),
    "chinese": Culture(
        0.12,
        "Wang Li Zhang Liu Chen Yang Huang Zhao Wu Zhou Xu Sun Ma Zhu Hu Guo He Lin Gao Luo Zheng Liang Xie Song Tang Deng Han Feng Cao Peng "
        "Zeng Xiao Tian Dong Pan Yuan Cai Jiang Yu Du Ye Cheng Wei Su Lü Ding Ren Shen Yao Lu Ouyang".split(),
        [
            a + b
            for a in "Xiao Jian Wen Zhi Yu Hong Ming Guo Li Hai Shu Chun Yong De Fang Mei Rui Jing Bo Zi Yi Xin".split()
            for b in "ming hua ping jun wei feng yan ling bin qiang tao lin hui yun fang mei".split()
        ],
        "family-first",
        0.6,
    ),
    "slavic": Culture(
        0.08,
        _joined(
            "Бел Вол Гор Жук Зай Кир Коз Лук Маш Мор Ник Пав Рощ Сем Сок Тих Чер Шев Щег Юр",
            "ов ев ский енко ин овский ук яков",
        ),
        "Алексей Андрей Борис Вера Виктор Галина Дмитрий Евгений Елена Игорь Ирина Ксения Лев Людмила Михаил Наталья Николай Ольга Павел "
        "Сергей Татьяна Фёдор Юлия Юрий".split(),
        "cyrillic",
    ),
    "arabic": Culture(
        0.05,
        [
            p + n
            for p in ("al-", "El ", "Ben ", "Abu ", "")
            for n in "Amari Badri Fahim Ghazali Hadidi Jabri Khatib Masri Najjar Qasimi Rashidi Saadi Tamimi Yamani Zahrani Bahri Haddad Mansour Nasser Salem".split()
        ],
        "Ahmed Ali Amina Fatima Hassan Hussein Ibrahim Khadija Layla Mahmoud Mariam Mohammed Mostafa Nadia Omar Rania Samir Tariq Yasmin Youssef Zeinab".split(),
        "romanised",
    ),
    "greek": Culture(
        0.03,
        _joined(
            "Αγγελ Βασιλ Γεωργ Δημ Θεοδωρ Κωνσταντ Μαυρ Νικολ Παπαδ Σταυρ Χριστ", "άκης ίδης όπουλος άκος ιάδης ούδης"
        ),
        "Αλέξανδρος Άννα Γιώργος Δημήτρης Ελένη Ιωάννης Κατερίνα Κώστας Μαρία Νίκος Παύλος Σοφία".split(),
        "greek",
    ),
}

_CYRILLIC = dict(
    zip(
        "абвгдезийклмнопрстуфхцчшщъыьэюяёж",
        ("a b v g d e z i i k l m n o p r s t u f kh ts ch sh shch _ y _ e yu ya yo zh").split(),
    )
)
_CYRILLIC_OTHER = _CYRILLIC | {"й": "j", "х": "h", "щ": "sch", "ю": "iu", "я": "ia", "ё": "e", "ц": "c"}
_GREEK = dict(zip("αβγδεζηθικλμνξοπρσςτυφχψω", "a v g d e z i th i k l m n x o p r s s t y f ch ps o".split()))
_GREEK_OTHER = _GREEK | {"β": "b", "η": "e", "φ": "ph", "χ": "h", "υ": "u"}
_WIDE = str.maketrans(
    {
        "ä": "ae",
        "ö": "oe",
        "ü": "ue",
        "ø": "oe",
        "å": "aa",
        "ß": "ss",
        "æ": "ae",
        "Ä": "Ae",
        "Ö": "Oe",
        "Ø": "Oe",
        "Å": "Aa",
    }
)
_NARROW = str.maketrans({"ø": "o", "ß": "ss", "æ": "ae", "Ø": "O", "ı": "i", "ł": "l", "Ł": "L"})
_ROMAN = {
    "Mohammed": ("Mohamed", "Muhammad", "Mohammad"),
    "Ahmed": ("Ahmad",),
    "Hussein": ("Hussain", "Husein"),
    "Mahmoud": ("Mahmud",),
    "Mostafa": ("Mustafa",),
    "Youssef": ("Yousef", "Yusuf"),
    "Mariam": ("Maryam",),
}


def ascii_of(text: str, wide: bool = False) -> str:
    """Without marks; ``wide`` writes ö as oe, as German and Nordic typists do."""
    text = unicodedata.normalize(
        "NFKD", unicodedata.normalize("NFC", text).translate(_WIDE if wide else _NARROW).translate(_NARROW)
    )
    return "".join(ch for ch in text if not unicodedata.combining(ch))


def romanised(text: str, other: bool = False) -> str:
    """Cyrillic or Greek in Latin letters, in one of two schemes."""
    plain = "".join(ch for ch in unicodedata.normalize("NFKD", text) if not unicodedata.combining(ch) or ch == "\u0306")
    plain = unicodedata.normalize("NFC", plain)
    table = (_GREEK_OTHER if other else _GREEK) | (_CYRILLIC_OTHER if other else _CYRILLIC)
    out = "".join(table.get(ch.lower(), ch).replace("_", "") if ch.isalpha() else ch for ch in plain)
    if other and out.endswith("ii"):
        out = out[:-2] + "y"
    return " ".join("-".join(p[:1].upper() + p[1:] for p in w.split("-")) for w in out.split(" "))


@dataclass
class Person:
    """One invented person as they sign; ``own`` are habits that hold for all of their records."""

    id: int
    culture: str
    family: str
    given: list[str]
    circle: int
    first: int
    last: int
    weight: float
    homes: list[str]
    suffix: str = ""
    married: tuple[int, str] = (9999, "")
    orcid: str = ""
    mail: str = ""
    friends: list[int] = field(default_factory=list)
    other: bool = False  # second scheme of romanising


#: How databases write a name, with the share of records.
STYLES = {"full": 0.36, "initials": 0.22, "run": 0.12, "natural": 0.12, "ascii": 0.10, "first": 0.05, "upper": 0.03}


def spelled(p: Person, style: str, year: int, rng: random.Random) -> str:
    """A person's name as a database of this style has it."""
    family, given = p.family, list(p.given)
    way = CULTURES[p.culture].way
    if year >= p.married[0]:
        family = f"{family}-{p.married[1]}"
    if way in ("cyrillic", "greek") and not (style in ("full", "natural") and rng.random() < 0.12):
        family, given = romanised(family, p.other), [romanised(g, p.other) for g in given]
    if way == "romanised":
        given = [rng.choice(_ROMAN[g]) if g in _ROMAN and rng.random() < 0.25 else g for g in given]
        if rng.random() < 0.2:
            family = family.replace("al-", rng.choice(("Al-", "Al ", "el-", "Al"))).replace("El ", "El-")
    if way == "double" and " " in family:
        roll = rng.random()
        family = family if roll < 0.45 else family.replace(" ", "-") if roll < 0.75 else family.split()[0]
    if way == "particle" and rng.random() < 0.2:
        family = family[0].upper() + family[1:]
    if way == "family-first" and len(given[0]) > 3:
        cut = next((k for k in range(2, len(given[0]) - 1) if given[0][:k] in _FIRSTS), 0)
        if cut and rng.random() < 0.45:
            given = [given[0][:cut] + rng.choice(("-", " ")) + rng.choice((str.lower, str.title))(given[0][cut:])]
            if given[0][cut] == " ":
                given = [given[0].title()]
    if len(given) > 1 and rng.random() < 0.35:
        given = given[:1]
    elif len(given) > 1 and rng.random() < 0.6:
        given[1:] = [g[0] + "." for g in given[1:]]
    if rng.random() < 0.008:
        family = mistyped(family, rng)
    if rng.random() < 0.005:
        given[0] = mistyped(given[0], rng)
    letters = [part[0] for g in given for part in g.replace(".", " ").replace("-", " ").split()]
    tail = p.suffix if p.suffix and rng.random() < 0.5 else ""
    if style == "ascii":
        wide = p.culture in ("german", "north") and rng.random() < 0.4
        family, given = ascii_of(family, wide), [ascii_of(g, wide) for g in given]
    if style in ("full", "ascii"):
        return f"{family}{f' {tail}' if tail and rng.random() < 0.4 else ''}, {' '.join(given)}" + (
            f", {tail}" if tail and rng.random() < 0.5 else ""
        )
    if style == "upper":
        return ascii_of(f"{family}, {' '.join(given)}").upper()
    if style == "initials":
        hyphen = "-" in given[0] and rng.random() < 0.5
        dotted = ".-".join(letters) + "." if hyphen else rng.choice((". ", ".")).join(letters) + "."
        return f"{family}, {dotted}{f', {tail}' if tail else ''}"
    if style == "first":
        return f"{family}, {letters[0]}" + rng.choice((".", ""))
    if style == "run":
        run = "".join(letters)
        return f"{ascii_of(family).upper() if rng.random() < 0.5 else ascii_of(family)} {ascii_of(run).upper()}" + (
            f" {tail}" if tail else ""
        )
    if way == "family-first" and rng.random() < 0.45:
        return f"{family} {' '.join(given)}"
    return f"{' '.join(given)} {family}{f' {tail}' if tail else ''}"


_FIRSTS = set("Xiao Jian Wen Zhi Yu Hong Ming Guo Li Hai Shu Chun Yong De Fang Mei Rui Jing Bo Zi Yi Xin".split())


def mistyped(text: str, rng: random.Random) -> str:
    """One slip of the fingers inside the word: two letters swapped, one missing, doubled or wrong."""
    if len(text) < 5:
        return text
    k = rng.randrange(1, len(text) - 1)
    if not (text[k].isalpha() and text[k + 1].isalpha()):
        return text
    return rng.choice(
        (
            text[:k] + text[k + 1] + text[k] + text[k + 2 :],
            text[:k] + text[k + 1 :],
            text[:k] + text[k] + text[k:],
            text[:k] + rng.choice("aeiorst") + text[k + 1 :],
        )
    )


# -- words

_NOUNS = (
    "marsh tide mill estuary channel sediment wave harbour current turbine sluice creek shore dune reef lagoon delta barrier bank basin "
    "larva species index analysis bacterium alga stratum phenomenon datum community policy survey fishery nursery colony theory "
    "model sensor sample record gauge profile grain salt mud peat root leaf seed wader curlew gull goose fish crab mussel oyster "
    "behaviour colour fibre centre programme sulphur catalogue mould plough labour neighbour vapour metre theatre"
).split()
_ADJECTIVES = (
    "tidal coastal saline marine benthic brackish managed mapped eroded buried seasonal annual deep shallow northern upper lower inner outer "
    "modelled labelled colonised fertilised grey aerobic palaeolithic mechanised urbanised stabilised"
).split()
_HEADS = (
    "dynamics modelling monitoring transport mapping restoration behaviour organisation characterisation analysis ecology management "
    "diversity assemblage production respiration distribution assessment history archaeology legislation flux budget deposition "
    "colonisation stabilisation urbanisation theory hypothesis network converter response sensitivity abundance variability"
).split()
_AMERICAN = (
    ("our", "or"),
    ("ise", "ize"),
    ("isation", "ization"),
    ("ised", "ized"),
    ("modelling", "modeling"),
    ("modelled", "modeled"),
    ("labelled", "labeled"),
    ("sulph", "sulf"),
    ("centre", "center"),
    ("fibre", "fiber"),
    ("metre", "meter"),
    ("theatre", "theater"),
    ("programme", "program"),
    ("catalogue", "catalog"),
    ("mould", "mold"),
    ("plough", "plow"),
    ("grey", "gray"),
    ("palaeo", "paleo"),
    ("archaeo", "archeo"),
)
_PLURALS = {
    "larva": "larvae",
    "species": "species",
    "index": "indices",
    "analysis": "analyses",
    "bacterium": "bacteria",
    "alga": "algae",
    "stratum": "strata",
    "phenomenon": "phenomena",
    "datum": "data",
    "hypothesis": "hypotheses",
    "leaf": "leaves",
    "goose": "geese",
}
_MASS = {
    "transport",
    "history",
    "archaeology",
    "ecology",
    "legislation",
    "production",
    "monitoring",
    "modelling",
    "mapping",
    "mud",
    "peat",
    "dynamics",
    "datum",
    "analysis",
    "abundance",
    "restoration",
    "management",
    "diversity",
}
#: Words that look alike and mean something else: never one.
NEAR = (
    ("organic matter", "inorganic matter"),
    ("organic carbon", "inorganic carbon"),
    ("nitrate", "nitrite"),
    ("ammonia", "ammonium"),
    ("sulphate", "sulphite"),
    ("aerobic decay", "anaerobic decay"),
    ("macrofauna", "microfauna"),
    ("microplastics", "macroplastics"),
    ("pm10", "pm2.5"),
    ("vitamin b1", "vitamin b12"),
    ("h1n1", "h5n1"),
    ("hypertrophic", "hypotrophic"),
    ("interspecific", "intraspecific"),
    ("adaption", "adoption"),
    ("casual labour", "causal labour"),
    ("statue", "statute"),
    ("marine", "mariner"),
    ("coast", "cost"),
    ("tidal flat", "tidal flap"),
    ("salt marsh", "salt mash"),
    ("mill race", "mill rate"),
    ("ethanol", "methanol"),
    ("public policy", "publicity"),
    ("prehistory", "history"),
    ("predation", "production"),
    ("immigration", "emigration"),
    ("precision", "prevision"),
    ("phase 1", "phase 2"),
    ("type a", "type b"),
    ("non-native species", "native species"),
    ("desalination", "salination"),
    ("sand bank", "land bank"),
    ("mollusc", "mollusc shell"),
    ("diatom", "diatomite"),
    ("polymer", "polymers chemistry"),
    ("water quality", "water quantity"),
    ("estuary mouth", "estuary month"),
    ("erosion", "corrosion"),
    ("plant cover", "plant clover"),
    ("isotherm", "isotherms model"),
    ("bed form", "bed frame"),
    ("fresh water", "flesh water"),
    ("ship wreck", "ship deck"),
    ("tide table", "tide cable"),
    ("tourism", "tourist tax"),
    ("wave height", "wave weight"),
    ("stock", "sock"),
    ("cohort 2010", "cohort 2011"),
    ("lead", "load"),
    ("beach", "beech"),
)


def american(text: str) -> str:
    for british, us in _AMERICAN:
        text = text.replace(british, us)
    return text


def plural(text: str) -> str:
    """The plural of the last word; the text itself where it has none."""
    head, _, last = text.rpartition(" ")
    if len(last) < 3 or last[-1].isdigit():
        return text
    if (last in _MASS or last.endswith(("s", "ing"))) and (last not in _PLURALS or last == "datum"):
        return text
    made = _PLURALS.get(last) or (
        last[:-1] + "ies"
        if last.endswith("y") and last[-2] not in "aeiou"
        else last + ("es" if last.endswith(("sh", "ch", "x", "ss")) else "s")
    )
    return f"{head} {made}".strip()


def word_spelled(word: str, rng: random.Random, style: str) -> str:
    """A keyword as an author or a database writes it."""
    text, roll = word, rng.random()
    if style == "american":
        text = american(text)
    if roll < 0.16:
        text = plural(text)
    elif roll < 0.20 and text.count(" ") == 1 and text.split()[0] in _NOUNS:
        first, second = text.split()
        text = f"{second}, {first}" if rng.random() < 0.5 else f"{second} of {first}"
    elif roll < 0.26 and " " in text:
        text = text.replace(" ", "-", 1)
    elif roll < 0.28 and text.count(" ") == 1 and len(text) < 14:
        text = text.replace(" ", "")
    elif roll < 0.31 and text.count(" ") >= 2:
        letters = "".join(w[0] for w in text.split()).upper()
        text = rng.choice((letters, f"{text} ({letters})", f"{text} ({letters})"))
        return text
    elif roll < 0.32 and len(text) > 7:
        text = mistyped(text, rng)
    if style == "upper":
        return text.upper()
    if style == "title":
        return text.title()
    return text if rng.random() < 0.8 else text[0].upper() + text[1:]


WORD_STYLES = {"plain": 0.55, "american": 0.22, "title": 0.13, "upper": 0.10}

# -- venues, institutions and works

_SUBJECTS = (
    "Estuarine Ecology|Coastal Engineering|Marine Sedimentology|Wetland Science|Tidal Energy|Salt Chemistry|Harbour Archaeology|"
    "Shore Management|Wave Mechanics|Mill History|Wader Biology|Cartography|Peat Research|Fisheries|Water Policy|Dune Botany|"
    "Palaeoclimate|Delta Studies|Ocean Modelling|Island Geography|Marine Geology|Marine Geography|Marine Geochemistry|Coastal Ecology|"
    "Coastal Economics|Wetland Science A|Wetland Science B|Coastal Research|Mill History of the North"
).split("|")
_SHORT = {
    "Journal": "J.",
    "International": "Int.",
    "Review": "Rev.",
    "Annals": "Ann.",
    "Letters": "Lett.",
    "Science": "Sci.",
    "Ecology": "Ecol.",
    "Engineering": "Eng.",
    "Marine": "Mar.",
    "Coastal": "Coast.",
    "Research": "Res.",
    "Studies": "Stud.",
    "Management": "Manag.",
    "Archaeology": "Archaeol.",
    "Chemistry": "Chem.",
    "Biology": "Biol.",
    "History": "Hist.",
    "Transactions": "Trans.",
    "Estuarine": "Estuar.",
    "Modelling": "Model.",
    "Mechanics": "Mech.",
    "Bulletin": "Bull.",
    "Sedimentology": "Sedimentol.",
    "Geography": "Geogr.",
    "Botany": "Bot.",
    "Geology": "Geol.",
    "Geochemistry": "Geochem.",
    "Economics": "Econ.",
}
_TOWNS = (
    "Holm|Sandhaven|Eastmere|Ravenquay|Kalhamn|Fairpoint|Nordfeld|Hoshigata|Greyferry|Porto Baixo|Vieux-Quai|Low Quay|Altstein|Birkvik|"
    "Monteverde|Lago Claro|Zwartdijk|Novomorsk|Tianhe Bay|Ras Salam"
).split("|")


def venues() -> list[str]:
    """Invented journals."""
    return [
        f"{a} {s}"
        for s in _SUBJECTS
        for a in ("Journal of", "International Journal of", "Annals of", "Advances in", "Bulletin of")
    ]


def institutions() -> list[str]:
    """Invented institutions, with their town."""
    return [
        text
        for t in _TOWNS
        for text in (
            f"University of {t}, {t}",
            f"{t} Institute of Technology, {t}",
            f"{t} Marine Laboratory, {t}",
            f"Department of Geography, University of {t}, {t}",
            f"Marine Laboratory, {t}",
            f"Institute of Coastal Research, {t}",
            f"Department of Geology, University of {t}, {t}",
            f"{t} University of Technology, {t}",
        )
    ]


def venue_spelled(venue: str, style: str, rng: random.Random) -> str:
    if rng.random() < 0.012:
        venue = mistyped(venue, rng)
    if style in ("run", "upper", "first") or rng.random() < 0.1:
        short = " ".join(_SHORT.get(w, w) for w in venue.split() if w not in ("of", "in"))
        return rng.choice((short, short.replace(".", ""), short.replace(".", "").upper()))
    return (
        venue.replace(" and ", " & ")
        if rng.random() < 0.5
        else rng.choice((venue, venue, venue, f"The {venue}", venue.upper()))
    )


def institution_spelled(name: str, rng: random.Random) -> str:
    roll = rng.random()
    if rng.random() < 0.012:
        name = mistyped(name, rng)
    if roll < 0.35:
        return name
    if roll < 0.55:
        return name.rpartition(",")[0]
    text = name
    for long, short in (
        ("University", "Univ"),
        ("Institute", "Inst"),
        ("Technology", "Technol"),
        ("Department", "Dept"),
        ("Laboratory", "Lab"),
        ("Geography", "Geog"),
    ):
        text = text.replace(long, short + rng.choice(("", ".")))
    return text if roll < 0.75 else text.replace(" of ", " ") if roll < 0.9 else ascii_of(name).upper()


@dataclass
class Work:
    """A cited document and the ways reference lists give it."""

    id: int
    family: str
    given: str
    year: int
    title: str
    venue: str
    volume: int
    page: int
    doi: str


def work_spelled(w: Work, rng: random.Random) -> str:
    """A reference line of some style, now and then with a slip."""
    year, page, volume = w.year, str(w.page), str(w.volume)
    family = mistyped(w.family, rng) if rng.random() < 0.02 else w.family
    slip = rng.random()
    if slip < 0.012:
        year += rng.choice((-1, 1))
    elif slip < 0.022:
        page = str(w.page + rng.choice((1, -1, 10)))
    elif slip < 0.03:
        page = ""
    short = " ".join(_SHORT.get(x, x) for x in w.venue.split() if x not in ("of", "in"))
    doi = w.doi and rng.random() < 0.5
    style = rng.random()
    if style < 0.4:
        text = f"{ascii_of(family)} {w.given[0]}, {year}, {short.replace('.', '').upper()}, V{volume}" + (
            f", P{page}" if page else ""
        )
        return text + (f", DOI {w.doi}" if doi else "")
    if style < 0.65:
        title = w.title if rng.random() < 0.85 else mistyped(w.title, rng)
        return (
            f"{family}, {w.given[0]}. ({year}). {title}. {w.venue}, {volume}"
            + (f", {page}-{w.page + 11}." if page else ".")
            + (f" https://doi.org/{w.doi}" if doi else "")
        )
    if style < 0.85:
        return (
            f"{family} {w.given[0]}. {w.title}. {short} {year};{volume}"
            + (f":{page}-{w.page + 11}." if page else ".")
            + (f" doi:{w.doi}" if doi else "")
        )
    return (
        f"{w.given[0]}. {family}, “{w.title},” {short}, vol. {volume}"
        + (f", pp. {page}–{w.page + 11}" if page else "")
        + f", {year}."
    )


# -- the corpus


@dataclass
class Planted:
    """Records and the truth: for every form of a kind how often it stands for what; ``occurrence``: (record, form) →
    who."""

    records: list[RawRecord]
    truth: dict[str, dict[str, Counter[int]]]
    occurrence: dict[tuple[int, str], int]


def planted(people: int, records: int, seed: int, *, references: bool = True, namesakes: float = 0.01) -> Planted:
    """A corpus of about ``people`` people in ``records`` records. ``namesakes``: share of people given another's
    name."""
    rng = random.Random(seed)
    everyone = _people(people, rng, namesakes)
    circles: dict[int, list[Person]] = defaultdict(list)
    for p in everyone:
        circles[p.circle].append(p)
    for members in circles.values():
        for p in members:
            p.friends = [q.id for q in rng.sample(members, min(len(members), rng.randint(4, 12)))]
    vocabulary = _vocabulary(len(circles), rng)
    works = _works(len(circles), rng, everyone) if references else []
    journals = venues()
    truth: dict[str, dict[str, Counter[int]]] = {
        k: defaultdict(Counter) for k in ("person", "keyword", "venue", "institution", "reference")
    }
    words_number: dict[str, int] = {}
    occurrence: dict[tuple[int, str], int] = {}
    homes = institutions()
    found = []
    leads = rng.choices(everyone, [p.weight for p in everyone], k=records)
    styles = rng.choices(list(STYLES), list(STYLES.values()), k=records)
    for n, (lead, style) in enumerate(zip(leads, styles)):
        year = rng.randint(lead.first, lead.last)
        team = {lead.id: lead}
        for _ in range(rng.choices((0, 1, 2, 3, 5, 8), (12, 24, 26, 20, 12, 6))[0]):
            roll = rng.random()
            one = (
                everyone[rng.choice(lead.friends)]
                if roll < 0.75
                else rng.choice(circles[lead.circle])
                if roll < 0.95
                else rng.choice(everyone)
            )
            if one.first - 2 <= year <= one.last + 2 and all(one.family != q.family for q in team.values()):
                team[one.id] = one
        names, known = [], {}
        for p in team.values():
            text = spelled(p, style, year, rng)
            if rng.random() < 0.002 and p.mail:
                text = p.mail
            if text in names:
                continue
            names.append(text)
            truth["person"][text][p.id] += 1
            occurrence[n, text] = p.id
            if p.orcid and style in ("full", "natural") and rng.random() < 0.5:
                known[text] = f"orcid:{p.orcid}"
            elif p is lead and style == "full" and rng.random() < 0.15:
                known[text] = f"mailto:{p.mail}"
            if p.suffix and rng.random() < 0.05:
                names.append(p.suffix)
        if rng.random() < 0.006:
            names.append(rng.choice(("et al.", "et al", "[Anonymous]", "others")))
        vocab = vocabulary[lead.circle]
        word_style = rng.choices(list(WORD_STYLES), list(WORD_STYLES.values()))[0]
        spelt = []
        for word in dict.fromkeys(
            vocab[min(int(rng.paretovariate(0.7)) - 1, rng.randrange(len(vocab)))] for _ in range(rng.randint(2, 6))
        ):
            text = word_spelled(word, rng, word_style)
            if text not in spelt:
                spelt.append(text)
                truth["keyword"][text][words_number.setdefault(word, len(words_number))] += 1
        j = (
            (lead.circle * 3 + min(int(rng.paretovariate(1.0)) - 1, 5)) % len(journals)
            if rng.random() < 0.9
            else rng.randrange(len(journals))
        )
        venue = venue_spelled(journals[j], style, rng)
        truth["venue"][venue][j] += 1
        places = []
        if style in ("full", "natural", "run") and rng.random() < 0.7:
            for home in dict.fromkeys(p.homes[min(len(p.homes) - 1, (year - p.first) // 9)] for p in team.values()):
                places.append(institution_spelled(home, rng))
                truth["institution"][places[-1]][homes.index(home)] += 1
        cited = []
        if works and rng.random() < 0.4:
            for k in {
                min(int(rng.paretovariate(0.6)) - 1, len(works[lead.circle]) - 1) for _ in range(rng.randint(2, 12))
            }:
                text = work_spelled(works[lead.circle][k], rng)
                cited.append(text)
                truth["reference"][text][works[lead.circle][k].id] += 1
        found.append(
            RawRecord(
                n + 1,
                title=f"On {' and '.join(spelt[:2])} {n}",
                year=year if rng.random() < 0.99 else 0,
                persons=names,
                keywords=spelt,
                venue=venue,
                institutions=places,
                references=cited,
                known_as=known,
            )
        )
    return Planted(found, truth, occurrence)


def _people(count: int, rng: random.Random, namesakes: float) -> list[Person]:
    keys, shares = list(CULTURES), [c.share for c in CULTURES.values()]
    drawn: dict[str, tuple[list[str], list[float]]] = {}
    for key, c in CULTURES.items():
        names = c.family[:]
        rng.shuffle(names)
        if count > 2500 and c.way not in ("family-first", "cyrillic", "greek"):
            # names of a large literature are many: families of two parts beside the common ones
            names += [
                a + b.lower()
                for a in names[:250]
                for b in names[: count // 600]
                if " " not in a + b and "-" not in a + b
            ]
        drawn[key] = names, [1 / (k + 8) ** c.skew for k in range(len(names))]
    size = 45
    homes = institutions()
    found = []
    for i in range(count):
        key = rng.choices(keys, shares)[0]
        c = CULTURES[key]
        family = rng.choices(*drawn[key])[0]
        if c.way == "double" and rng.random() < 0.6:
            family += " " + rng.choices(*drawn[key])[0]
        elif c.way == "plain" and rng.random() < 0.02:
            family += "-" + rng.choices(*drawn[key])[0]
        given = [rng.choice(c.given)]
        if c.way != "family-first" and rng.random() < 0.45:
            given.append(rng.choice(c.given).split("-")[0])
        if c.way == "cyrillic" and len(given) == 1:
            given.append(rng.choice(("Иванович", "Петрович", "Сергеевич", "Алексеевна", "Николаевна")))
        circle = i % max(1, count // size)
        first = rng.randint(1970, 2015)
        p = Person(
            i,
            key,
            family,
            given,
            circle,
            first,
            min(2025, first + rng.randint(3, 35)),
            min(rng.paretovariate(1.1), 60.0),
            [
                homes[(circle * 7 + k) % len(homes)] if rng.random() < 0.7 else rng.choice(homes)
                for k in range(rng.choice((1, 1, 2, 3)))
            ],
        )
        if rng.random() < 0.02:
            p.suffix = rng.choice(("Neto", "Filho", "Júnior") if key == "iberian" else ("Jr", "Jr.", "III", "II"))
        if rng.random() < 0.012 and c.way == "plain":
            p.married = rng.randint(first + 2, first + 15), rng.choices(*drawn[key])[0]
        if rng.random() < 0.15:
            p.orcid = f"0000-0002-{i // 10000:04d}-{i % 10000:04d}"
        latin = ascii_of(romanised(family)).lower().replace(" ", "").replace("-", "").replace("'", "")
        p.mail = rng.choice(
            ("{g}.{f}@{h}.example", "{i}.{f}@{h}.example", "{i}{f}@{h}.example", "{f}{i}@{h}.example")
        ).format(
            g=ascii_of(romanised(given[0])).lower().replace(" ", ""),
            i=ascii_of(romanised(given[0]))[0].lower(),
            f=latin,
            h=ascii_of(p.homes[0].rpartition(", ")[2]).lower().replace(" ", ""),
        )
        p.other = rng.random() < 0.4
        found.append(p)
    for k in rng.sample(range(count), int(count * namesakes)):  # the same whole name, far away
        other = found[(k + count // 2 + 7) % count]
        other.culture, other.family, other.given, other.other = (
            found[k].culture,
            found[k].family,
            found[k].given[:],
            found[k].other,
        )
        found[k].weight = max(found[k].weight, 3.0)
        other.weight = max(other.weight, 3.0)
    return found


def _vocabulary(circles: int, rng: random.Random) -> list[list[str]]:
    """Each circle's words; near misses are always given to one circle each, both of them."""
    phrases = sorted(
        {
            *(f"{a} {h}" for a in _NOUNS for h in _HEADS),
            *(f"{a} {n}" for a in _ADJECTIVES for n in _NOUNS),
            *(f"{a} {n} {h}" for a in _ADJECTIVES[::2] for n in _NOUNS[::3] for h in _HEADS[::3]),
            *_NOUNS,
            *_HEADS,
        }
    )
    rng.shuffle(phrases)
    # an expansion's letters may stand for one thing only within a study
    letters: set[str] = set()
    kept = []
    for text in phrases:
        short = "".join(w[0] for w in text.split())
        if text.count(" ") >= 2:
            if short in letters:
                continue
            letters.add(short)
        kept.append(text)
    common = kept[:30]
    found = []
    for k in range(circles):
        at = (30 + k * 24) % (len(kept) - 40)
        pair = NEAR[k % len(NEAR)]
        words = [*kept[at : at + 24], *pair, *rng.sample(common, 6)]
        rng.shuffle(words)
        found.append(words)
    return found


def _works(circles: int, rng: random.Random, everyone: list[Person]) -> list[list[Work]]:
    """Each circle's cited works; some share author, year and venue with another, as parts of a series do."""
    journals, found, number = venues(), [], 0
    for _c in range(circles):
        own: list[Work] = []
        for k in range(60):
            p = rng.choice(everyone)
            given, family = ascii_of(romanised(p.given[0])), romanised(p.family)
            title = f"{rng.choice(_ADJECTIVES).title()} {rng.choice(_NOUNS)} {rng.choice(_HEADS)} and {rng.choice(_NOUNS)} {rng.choice(_HEADS)} at {rng.choice(_TOWNS)}"
            w = Work(
                number,
                family,
                given,
                rng.randint(1950, 2022),
                title,
                rng.choice(journals),
                rng.randint(1, 140),
                rng.randint(1, 900),
                f"10.99999/ref.{number}" if rng.random() < 0.6 else "",
            )
            if k and rng.random() < 0.12:  # a sequel: same author, year, venue and volume
                last = own[-1]
                w.family, w.given, w.year, w.venue, w.volume = (
                    last.family,
                    last.given,
                    last.year,
                    last.venue,
                    last.volume,
                )
                w.page = last.page + rng.randint(8, 60)
                w.title = last.title + rng.choice((" II", ": part 2", " revisited")) if rng.random() < 0.3 else w.title
            own.append(w)
            number += 1
        found.append(own)
    return found
