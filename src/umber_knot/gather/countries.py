"""Countries as authors and databases write them: names in many languages, codes, former names, states and provinces.

Names and codes are CLDR's (through Babel); what it lacks stands below.
"""

from __future__ import annotations

import re
from functools import lru_cache

from umber_knot.corpus.letters import plain_words

_LANGUAGES = "de fr es it pt nl sv da nb fi pl cs hu tr ru uk el ja zh ko ro hr sr bg ca".split()
#: Names that CLDR does not give, as they stand in addresses → ISO code.
_MORE = {
    "AE": "u arab emirates, uae, emirates",
    "BA": "bosnia, bosnia and herzegovina, bosnia herzegovina, bosnia hercegovina, bih",
    "BN": "brunei darussalam",
    "BO": "plurinational state of bolivia",
    "BR": "brasil",
    "CD": "democratic republic of the congo, democratic republic of congo, dem rep congo, dr congo, drc, zaire, "
    "congo democratic republic of the, congo the democratic republic of the, republique democratique du congo",
    "CG": "republic of the congo, republic of congo, congo, congo republic of the",
    "CI": "ivory coast, cote ivoire, cote d ivoire",
    "CN": "peoples r china, people s r china, peoples republic of china, people s republic of china, pr china, prc, "
    "mainland china, p r of china, pr of china, r p china",
    "CV": "cape verde",
    "CZ": "czechoslovakia, czech republic, czech rep",
    "DE": "fed rep ger, federal republic of germany, west germany, east germany, ger dem rep, brd, ddr, frg, gdr, "
    "german democratic republic, bundesrepublik deutschland",
    "DO": "dominican rep",
    "EG": "arab republic of egypt, united arab republic",
    "FM": "micronesia",
    "FR": "republique francaise",
    "GB": "england, scotland, wales, northern ireland, north ireland, n ireland, uk, great britain, britain, "
    "united kingdom of great britain and northern ireland, royaume uni",
    "IE": "eire, republic of ireland, irish republic",
    "IR": "iran, islamic republic of iran, iran islamic republic of, islamic republic iran, ir iran",
    "KP": "dprk, democratic people s republic of korea",
    "KR": "korea, south korea, republic of korea, korea republic of, korea south, rok, r korea",
    "LA": "laos, lao pdr, lao people s democratic republic",
    "LY": "libyan arab jamahiriya",
    "MD": "republic of moldova, moldova republic of",
    "MK": "macedonia, fyr macedonia, former yugoslav republic of macedonia, republic of macedonia",
    "MM": "burma",
    "NL": "holland, the netherlands, pays bas",
    "PS": "palestine, palestinian territory, state of palestine, occupied palestinian territory, gaza strip, west bank",
    "RS": "yugoslavia, serbia and montenegro, republic of serbia",
    "RU": "russia, russian federation, ussr, soviet union, union of soviet socialist republics",
    "SK": "slovak republic, slovak rep, slovakia",
    "SY": "syrian arab republic",
    "SZ": "swaziland",
    "TL": "east timor",
    "TT": "trinidad and tobago, trinidad tobago, trinidad, trinid tobago",
    "TW": "taiwan republic of china, republic of china, roc, taiwan roc, taiwan province of china, chinese taipei, "
    "taiwan r o c, republic of china taiwan",
    "TZ": "tanzania, united republic of tanzania, tanzania united republic of",
    "TR": "turkey",
    "US": "usa, us, united states of america, the united states, america, estados unidos, e u a, eua",
    "VA": "vatican",
    "VE": "bolivarian republic of venezuela, venezuela bolivarian republic of",
    "VN": "vietnam, viet nam, socialist republic of vietnam",
    "XK": "kosovo",
    "ZA": "republic of south africa, rsa, suid afrika",
    "ZW": "rhodesia",
}
#: States and provinces that imply a country.
_STATES = {
    "US": "alabama al alaska ak arizona az arkansas ar california ca colorado co connecticut ct delaware de florida fl ga "
    "hawaii hi idaho id illinois il indiana in iowa ia kansas ks kentucky ky louisiana la maine me maryland md "
    "massachusetts ma michigan mi minnesota mn mississippi ms missouri mo montana mt nebraska ne nevada nv "
    "new_hampshire nh new_jersey nj new_mexico nm new_york ny north_carolina nc north_dakota nd ohio oh oklahoma ok "
    "oregon or pennsylvania pa rhode_island ri south_carolina sc south_dakota sd tennessee tn texas tx utah ut "
    "vermont vt virginia va washington wa west_virginia wv wisconsin wi wyoming wy dc district_of_columbia "
    "ala ariz calif colo conn del fla ill ind kan kans mass mich minn miss mont neb nebr nev okla ore oreg "
    "penn penna tenn tex wash wis wisc wyo",
    "CA": "alberta ab british_columbia bc manitoba mb new_brunswick nb newfoundland nl nova_scotia ns ontario on "
    "prince_edward_island pe quebec qc pq saskatchewan sk yukon yt",
    "AU": "new_south_wales nsw queensland qld south_australia tasmania tas victoria vic western_australia",
}
STATES = {name.replace("_", " "): code for code, names in _STATES.items() for name in names.split()}
#: Cities of countries whose code is a state's as well (``Berlin, DE``); CLDR's time zones give more.
_CITIES = {
    "DE": "berlin hamburg munich munchen muenchen koln cologne frankfurt stuttgart dusseldorf dortmund essen leipzig "
    "bremen dresden hannover hanover nuremberg nurnberg bonn gottingen goettingen tubingen tuebingen freiburg jena "
    "mainz heidelberg karlsruhe aachen kiel halle potsdam rostock wurzburg marburg giessen ulm konstanz bochum",
    "NL": "amsterdam rotterdam utrecht leiden delft groningen nijmegen wageningen eindhoven tilburg maastricht enschede "
    "the_hague den_haag haarlem arnhem",
    "IN": "delhi new_delhi mumbai bombay bangalore bengaluru chennai madras kolkata calcutta hyderabad pune kanpur "
    "ahmedabad jaipur lucknow chandigarh roorkee guwahati varanasi",
    "IL": "tel_aviv haifa jerusalem rehovot beer_sheva ramat_gan",
    "CA": "toronto montreal ottawa vancouver calgary edmonton winnipeg hamilton kingston waterloo halifax victoria quebec",
    "CO": "bogota medellin cali barranquilla cartagena",
    "AR": "buenos_aires cordoba rosario la_plata mendoza tucuman",
    "MA": "rabat casablanca fes fez marrakech marrakesh tangier meknes agadir",
    "PE": "lima cusco arequipa trujillo",
    "PA": "panama panama_city",
    "SK": "bratislava kosice",
    "AL": "tirana",
    "MD": "chisinau",
    "GA": "libreville",
    "ID": "jakarta bandung yogyakarta surabaya bogor depok",
    "MT": "valletta msida",
    "TN": "tunis sfax sousse",
    "GE": "tbilisi batumi kutaisi rustavi telavi zugdidi gori akhaltsikhe",
}
_OF = frozenset("of for in de du del della dello der des do da van von and et y e und the at".split())


@lru_cache(1)
def names() -> dict[str, str]:
    """Every name of a country in plain words → its ISO code."""
    from babel import Locale

    known = english()
    found: dict[str, str] = {}
    for language in _LANGUAGES:
        for code, name in Locale(language).territories.items():
            if code in known:
                found.setdefault(key(name), code)
    found |= {key(name): code for code, name in known.items()}
    return found | {one.strip(): code for code, more in _MORE.items() for one in more.split(",")}


@lru_cache(1)
def english() -> dict[str, str]:
    """ISO code → English name."""
    from babel import Locale

    found = {
        code: name
        for code, name in Locale("en").territories.items()
        if len(code) == 2 and code.isalpha() and code not in ("EU", "EZ", "UN", "QO", "XA", "XB", "ZZ")
    }
    return found | {
        "CN": "China",
        "HK": "Hong Kong",
        "MO": "Macao",
        "MM": "Myanmar",
        "TR": "Turkey",
        "CI": "Côte d’Ivoire",
        "BA": "Bosnia and Herzegovina",
        "TT": "Trinidad and Tobago",
        "CD": "Democratic Republic of the Congo",
        "CG": "Republic of the Congo",
        "PS": "Palestine",
    }


@lru_cache(1)
def _cities() -> dict[str, str]:
    """Cities → the code of their country: those of the time zones, and those above."""
    from babel.core import get_global

    zones = {
        key(zone.rpartition("/")[2].replace("_", " ")): code
        for zone, code in get_global("zone_territories").items()
        if "/" in zone
    }
    return zones | {one.replace("_", " "): code for code, more in _CITIES.items() for one in more.split()}


@lru_cache(1)
def _three_letters() -> dict[str, str]:
    from babel.core import get_global

    return {alias: codes[0] for alias, codes in get_global("territory_aliases").items() if len(alias) == 3 and codes}


@lru_cache(1 << 15)
def key(text: str) -> str:
    """A name in plain words, single letters drawn together and articles left out.

    >>> key("U.S.A."), key("The P. R. China"), key("Trinidad & Tobago")
    ('usa', 'pr china', 'trinidad and tobago')
    """
    words = plain_words(text.replace("&", " and ")).removeprefix("the ")
    return re.sub(r"\b(\w) (?=\w\b)", r"\1", words)


def country_of(text: str) -> str:
    """The English name of a country as written, or of an ISO code; empty when it is none.

    >>> country_of("Deutschland"), country_of("Peoples R China."), country_of("GB"), country_of("Eastmere")
    ('Germany', 'China', 'United Kingdom', '')
    """
    return english().get(code_of(text), "")


def code_of(text: str) -> str:
    """The ISO code of a country as written, or of an ISO code; empty when it is none."""
    word = text.strip(" .;,()[]")
    code = names().get(key(word), "")
    if not code and len(word) == 2 and word.isupper() and word in english():
        code = word
    if not code and len(word) == 3 and word.isupper():
        code = _three_letters().get(word, "")
    return code


def ending(text: str) -> tuple[str, str]:
    """A country's code that a text without commas ends with, and what stands before it; nothing where the name belongs
    to what it stands in (``Bank of Norland``).

    >>> ending("Hefei 230026 China"), ending("University of Norway")
    (('CN', 'Hefei 230026'), ('', 'University of Norway'))
    """
    words = text.split()
    for at in range(max(len(words) - 8, 0), len(words)):
        tail = " ".join(words[at:])
        name = key(tail)
        code = STATES.get(name, "") if len(name) > 3 else ""
        code = code or names().get(name, "") or ("US" if tail in ("US", "USA") else "")
        if code and len(name) > 1:
            before = key(words[at - 1]) if at else ""
            if before in _OF or (at and not before):
                return "", text
            return code, " ".join(words[:at])
    return "", text


def by_state(word: str, city: str, postcode: bool) -> str:
    """The code of the country that a state or province implies, where its name or code stands after a city.

    Codes that are a country's too (``DE``, ``NL``) are the country's where the city is known to lie there.

    Parameters
    ----------
    word
        The state as written, without a postcode.
    city
        What stands before it.
    postcode
        Whether an American or Canadian postcode follows the state.
    """
    name = key(word)
    place = _cities().get(key(city), "")
    if name == "georgia":
        return "GE" if place == "GE" else "US"
    short = word.strip(" .")
    if len(name) <= 2:
        if not short.isupper() and not (short.istitle() and city):  # "Pa.", as of old
            return ""
        if not postcode and place == short:
            return place
    return STATES.get(name, "")
