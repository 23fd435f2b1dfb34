"""A stand-in catalogue on this machine alone: a made-up Brackwater catalogue that speaks SRU 2.0 and OAI-PMH 2.0."""

from __future__ import annotations

import threading
from collections.abc import Iterator
from contextlib import contextmanager
from functools import cached_property
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from urllib.parse import parse_qs, urlsplit

from umber_knot import __version__
from umber_knot.corpus.model import RawRecord
from umber_knot.demo import cql
from umber_knot.markup import xml

PAGE = 50
STAMP = "2025-12-31"  # when every record of the catalogue was last touched
_SRU = "http://docs.oasis-open.org/ns/search-ws/sruResponse"
_OAI = "http://www.openarchives.org/OAI/2.0/"
_PREFIXES = {
    "oai_dc": ("http://www.openarchives.org/OAI/2.0/oai_dc/", "http://www.openarchives.org/OAI/2.0/oai_dc.xsd"),
    "marc21": ("http://www.loc.gov/MARC21/slim", "http://www.loc.gov/standards/marcxml/schema/MARC21slim.xsd"),
    "mods": ("http://www.loc.gov/mods/v3", "http://www.loc.gov/standards/mods/v3/mods-3-8.xsd"),
}


class Shelf:
    """The records of the catalogue: every fourth of the demo's literature, and some that the demo's files lack."""

    @cached_property
    def records(self) -> list[RawRecord]:
        from umber_knot.demo.records import SEED, records

        mine, _ = records(SEED)
        other, _ = records(SEED + 100)
        for r in other[::12]:
            r.entry, r.doi = f"cat{r.entry[2:]}", ""
        return mine[::4] + other[::12]

    def sets(self) -> dict[str, str]:
        """Set → its name: one a journal."""
        venues = sorted({r.venue for r in self.records})
        return {"".join(w for w in v.lower() if w.isalpha()): v for v in venues}


def marcxml(r: RawRecord) -> str:
    """A record as MARCXML."""

    def field(tag: str, one: str, two: str, **codes: str) -> str:
        inner = "".join(f'<subfield code="{c}">{xml(v)}</subfield>' for c, v in codes.items() if v)
        return f'<datafield tag="{tag}" ind1="{one}" ind2="{two}">{inner}</datafield>\n' if inner else ""

    body = (
        field("024", "7", " ", a=r.doi).replace("</datafield>", '<subfield code="2">doi</subfield></datafield>')
        if r.doi
        else ""
    )
    body += field("100", "1", " ", a=r.persons[0] if r.persons else "") + field("245", "1", "0", a=r.title)
    body += field("264", " ", "1", a="Low Quay", c=str(r.year)) + field("520", " ", " ", a=r.abstract)
    body += "".join(field("653", " ", " ", a=w) for w in r.keywords) + "".join(
        field("700", "1", " ", a=p) for p in r.persons[1:]
    )
    body += field("773", "0", " ", t=r.venue, g=r.volume)
    fixed = f"000000s{r.year:04}    xx                  eng d"
    return (
        '<record xmlns="http://www.loc.gov/MARC21/slim">\n<leader>00000nab a2200000 a 4500</leader>\n'
        f'<controlfield tag="001">{xml(r.entry)}</controlfield>\n<controlfield tag="008">{fixed}</controlfield>\n{body}</record>'
    )


def dublin_core(r: RawRecord) -> str:
    """A record as Dublin Core."""
    pairs = [
        ("title", r.title),
        *(("creator", p) for p in r.persons),
        *(("subject", w) for w in r.keywords),
        ("description", r.abstract),
        ("date", str(r.year)),
        ("type", "article"),
        ("source", r.venue),
        ("language", "en"),
        ("identifier", f"https://doi.org/{r.doi}" if r.doi else r.entry),
    ]
    body = "\n".join(f"<dc:{name}>{xml(value)}</dc:{name}>" for name, value in pairs if value)
    return f'<oai_dc:dc xmlns:oai_dc="{_PREFIXES["oai_dc"][0]}" xmlns:dc="http://purl.org/dc/elements/1.1/">\n{body}\n</oai_dc:dc>'


def mods(r: RawRecord) -> str:
    """A record as MODS."""
    names = "".join(
        f'<name type="personal"><namePart type="family">{xml(f)}</namePart><namePart type="given">{xml(g)}</namePart></name>\n'
        for f, _, g in (p.partition(", ") for p in r.persons)
    )
    topics = "".join(f"<subject><topic>{xml(w)}</topic></subject>\n" for w in r.keywords)
    doi = f'<identifier type="doi">{xml(r.doi)}</identifier>\n' if r.doi else ""
    return (
        f'<mods xmlns="{_PREFIXES["mods"][0]}" ID="{xml(r.entry)}">\n<titleInfo><title>{xml(r.title)}</title></titleInfo>\n{names}'
        f"<originInfo><dateIssued>{r.year}</dateIssued></originInfo>\n<abstract>{xml(r.abstract)}</abstract>\n{topics}"
        f'<relatedItem type="host"><titleInfo><title>{xml(r.venue)}</title></titleInfo></relatedItem>\n{doi}</mods>'
    )


WRITERS = {"marcxml": marcxml, "marc21": marcxml, "dc": dublin_core, "oai_dc": dublin_core, "mods": mods}


def sru(shelf: Shelf, asked: dict[str, str]) -> str:
    """The answer to an SRU request."""
    if asked.get("operation") == "explain" or not asked.get("query"):
        return (
            '<explainResponse xmlns="http://docs.oasis-open.org/ns/search-ws/sruResponse"><version>2.0</version><record><recordData>'
            '<explain xmlns="http://explain.z3950.org/dtd/2.1/"><databaseInfo><title>The Brackwater catalogue (made up)</title></databaseInfo>'
            "<indexInfo><index><title>title, creator, subject, date, identifier</title></index></indexInfo></explain></recordData></record></explainResponse>"
        )
    schema = asked.get("recordSchema", "marcxml").rpartition("/")[2]
    try:
        test = cql.parse(asked["query"])
    except cql.QueryError as error:
        return _diagnostic(10, "Query syntax error", str(error))
    if schema not in WRITERS:
        return _diagnostic(66, "Unknown schema for retrieval", schema)
    start, most = _number(asked.get("startRecord", "1")), _number(asked.get("maximumRecords", "10"))
    if start < 1 or most < 0:
        return _diagnostic(6, "Unsupported parameter value", "startRecord and maximumRecords are whole numbers")
    found = [r for r in shelf.records if test(r)]
    if start > max(len(found), 1):
        return _diagnostic(61, "First record position out of range", str(start))
    page = found[start - 1 : start - 1 + min(most, PAGE)]
    rows = "\n".join(
        f"<record><recordSchema>{schema}</recordSchema><recordXMLEscaping>xml</recordXMLEscaping><recordData>\n{WRITERS[schema](r)}\n</recordData>"
        f"<recordPosition>{start + k}</recordPosition></record>"
        for k, r in enumerate(page)
    )
    following = start + len(page)
    more = f"<nextRecordPosition>{following}</nextRecordPosition>" if following <= len(found) else ""
    return (
        f'<searchRetrieveResponse xmlns="{_SRU}"><version>2.0</version><numberOfRecords>{len(found)}</numberOfRecords>\n'
        f"<records>{rows}</records>{more}</searchRetrieveResponse>"
    )


def _number(text: str) -> int:
    return int(text) if text.isascii() and text.isdecimal() and len(text) < 9 else -1


def _diagnostic(code: int, message: str, details: str) -> str:
    return (
        f'<searchRetrieveResponse xmlns="{_SRU}"><version>2.0</version><numberOfRecords>0</numberOfRecords><diagnostics>'
        f'<diagnostic xmlns="http://docs.oasis-open.org/ns/search-ws/diagnostic"><uri>info:srw/diagnostic/1/{code}</uri>'
        f"<details>{xml(details)}</details><message>{xml(message)}</message></diagnostic></diagnostics></searchRetrieveResponse>"
    )


def oai(shelf: Shelf, asked: dict[str, str], base: str) -> str:
    """The answer to an OAI-PMH request."""
    verb = asked.get("verb", "")
    deeds = {
        "Identify": _identify,
        "ListMetadataFormats": _formats,
        "ListSets": _sets,
        "ListRecords": _list,
        "ListIdentifiers": _list,
        "GetRecord": _get,
    }
    try:
        body = (
            deeds[verb](shelf, asked, base)
            if verb in deeds
            else _error("badVerb", f"{verb or 'no verb'} is none of {', '.join(deeds)}")
        )
    except ValueError as error:
        body = _error(*error.args)
    return f'<OAI-PMH xmlns="{_OAI}"><responseDate>{STAMP}T00:00:00Z</responseDate><request verb="{xml(verb)}">{xml(base)}</request>\n{body}</OAI-PMH>'


def _error(code: str, text: str) -> str:
    return f'<error code="{code}">{xml(text)}</error>'


def _identify(shelf: Shelf, asked: dict[str, str], base: str) -> str:
    return (
        f"<Identify><repositoryName>The Brackwater catalogue (made up)</repositoryName><baseURL>{xml(base)}</baseURL><protocolVersion>2.0</protocolVersion>"
        f"<adminEmail>nobody@brackwater.example</adminEmail><earliestDatestamp>{STAMP}</earliestDatestamp><deletedRecord>no</deletedRecord>"
        "<granularity>YYYY-MM-DD</granularity></Identify>"
    )


def _formats(shelf: Shelf, asked: dict[str, str], base: str) -> str:
    rows = "".join(
        f"<metadataFormat><metadataPrefix>{name}</metadataPrefix><schema>{schema}</schema><metadataNamespace>{space}</metadataNamespace></metadataFormat>"
        for name, (space, schema) in _PREFIXES.items()
    )
    return f"<ListMetadataFormats>{rows}</ListMetadataFormats>"


def _sets(shelf: Shelf, asked: dict[str, str], base: str) -> str:
    rows = "".join(
        f"<set><setSpec>{spec}</setSpec><setName>{xml(name)}</setName></set>" for spec, name in shelf.sets().items()
    )
    return f"<ListSets>{rows}</ListSets>"


def _chosen(shelf: Shelf, asked: dict[str, str]) -> tuple[list[RawRecord], str, int, str]:
    """(records, format, where to begin, what the token repeats); ValueError carries an OAI error."""
    token = asked.get("resumptionToken", "")
    if token:
        parts = token.split("!")
        if len(parts) != 5 or _number(parts[0]) < 0:
            raise ValueError("badResumptionToken", "this token was not given here")
        at, prefix, within, first, last = _number(parts[0]), *parts[1:]
    else:
        at, prefix, within = 0, asked.get("metadataPrefix", ""), asked.get("set", "")
        first, last = asked.get("from", ""), asked.get("until", "")
        if not prefix:
            raise ValueError("badArgument", "metadataPrefix is missing")
    if prefix not in _PREFIXES:
        raise ValueError("cannotDisseminateFormat", f"{prefix} is none of {', '.join(_PREFIXES)}")
    names = shelf.sets()
    found = [r for r in shelf.records if not within or names.get(within) == r.venue]
    if (first and first[:10] > STAMP) or (last and last[:10] < STAMP[: len(last[:10])]):
        found = []
    if not found:
        raise ValueError("noRecordsMatch", "nothing matches")
    if at >= len(found):
        raise ValueError("badResumptionToken", "this token is past the end")
    return found, prefix, at, "!".join((prefix, within, first, last))


def _list(shelf: Shelf, asked: dict[str, str], base: str) -> str:
    found, prefix, at, rest = _chosen(shelf, asked)
    verb = asked["verb"]
    page = found[at : at + PAGE]
    rows = "\n".join(_record(r, prefix, verb == "ListIdentifiers") for r in page)
    following = f"{at + len(page)}!{rest}" if at + len(page) < len(found) else ""
    token = (
        f'<resumptionToken completeListSize="{len(found)}" cursor="{at}">{xml(following)}</resumptionToken>'
        if following or at
        else ""
    )
    return f"<{verb}>{rows}{token}</{verb}>"


def _get(shelf: Shelf, asked: dict[str, str], base: str) -> str:
    prefix, wanted = asked.get("metadataPrefix", ""), asked.get("identifier", "").rpartition(":")[2]
    if prefix not in _PREFIXES:
        raise ValueError("cannotDisseminateFormat", f"{prefix or 'no format'} is none of {', '.join(_PREFIXES)}")
    for r in shelf.records:
        if r.entry == wanted:
            return f"<GetRecord>{_record(r, prefix, False)}</GetRecord>"
    raise ValueError("idDoesNotExist", f"no record is called {wanted}")


def _record(r: RawRecord, prefix: str, bare: bool) -> str:
    head = (
        f"<header><identifier>oai:brackwater.example:{xml(r.entry)}</identifier><datestamp>{STAMP}</datestamp></header>"
    )
    return head if bare else f"<record>{head}<metadata>\n{WRITERS[prefix](r)}\n</metadata></record>"


class _Handler(BaseHTTPRequestHandler):
    server_version = f"UmberKnotCatalogue/{__version__}"
    shelf = Shelf()

    def do_GET(self) -> None:
        parts = urlsplit(self.path)
        asked = {name: values[0] for name, values in parse_qs(parts.query, max_num_fields=40).items()}
        base = f"http://{self.headers.get('Host', '127.0.0.1')}{parts.path}"
        if parts.path.rstrip("/") == "/sru":
            self._send(200, sru(self.shelf, asked))
        elif parts.path.rstrip("/") == "/oai":
            self._send(200, oai(self.shelf, asked, base))
        else:
            self._send(404, "<catalogue><sru>/sru</sru><oai>/oai</oai></catalogue>")

    def _send(self, status: int, body: str) -> None:
        data = f'<?xml version="1.0" encoding="UTF-8"?>\n{body}\n'.encode()
        self.send_response(status)
        self.send_header("Content-Type", "application/xml; charset=utf-8")
        self.send_header("Content-Length", str(len(data)))
        self.end_headers()
        self.wfile.write(data)

    def log_message(self, format: str, *arguments: object) -> None:
        """Quiet: what is asked is nobody else's business."""


def make_server(port: int = 0) -> ThreadingHTTPServer:
    """A server on the loopback address; port 0 takes any that is free. Raises OSError when the port is taken."""
    return ThreadingHTTPServer(("127.0.0.1", port), _Handler)


@contextmanager
def running(port: int = 0) -> Iterator[str]:
    """The stand-in, running beside the caller; gives its address (to which /sru or /oai is added)."""
    server = make_server(port)
    thread = threading.Thread(target=server.serve_forever, daemon=True)
    thread.start()
    try:
        yield f"http://127.0.0.1:{server.server_address[1]}"
    finally:
        server.shutdown()
        server.server_close()
        thread.join()
