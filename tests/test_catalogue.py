"""The catalogue: both protocols against the stand-in, the query language, and what a server can do wrong."""

import threading
from http.server import BaseHTTPRequestHandler, HTTPServer

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from umber_knot.corpus.model import RawRecord
from umber_knot.demo import cql
from umber_knot.demo.catalogue import Shelf, oai, running, sru
from umber_knot.errors import UserError
from umber_knot.gather.catalogue.client import Answer, _wait, _Web, ask, collected, harvest, titles
from umber_knot.gather.catalogue.question import Question
from umber_knot.gather.read import read_text

SHELF = Shelf()


@pytest.fixture(scope="module")
def base():
    with running() as address:
        yield address


@pytest.mark.parametrize("schema", ["marcxml", "mods", "dc"])
def test_sru_gives_every_record_that_answers_once(base, schema):
    question = Question(f"{base}/sru", "SRU", 'subject = "tide mill" or subject = curlew', schema)
    wanted = [
        r
        for r in SHELF.records
        if any("tide mill" in k.lower().replace("-", " ") or "curlew" in k.lower() for k in r.keywords)
    ]
    first = ask(question, size=7)
    assert first.total == len([r for r in SHELF.records if cql.parse(question.query)(r)]) and len(first.records) == 7
    records = list(read_text(collected(list(harvest(question))), "x.xml"))
    assert len(records) == first.total and {r.title for r in records} <= {r.title for r in wanted}
    by_title = {(r.title, r.year): r for r in SHELF.records}
    for r in records:
        was = by_title[r.title, r.year]
        assert (
            r.year == was.year
            and r.doi == was.doi
            and [p.rstrip(".") for p in r.persons] == [p.rstrip(".") for p in was.persons]
        )


def test_oai_follows_tokens_to_the_end_and_knows_sets(base):
    everything = list(harvest(Question(f"{base}/oai", "OAI-PMH", "", "oai_dc")))
    assert len(everything) == len(SHELF.records) and len(set(everything)) == len(everything)
    spec, name = next(iter(SHELF.sets().items()))
    some = read_text(collected(list(harvest(Question(f"{base}/oai", "OAI-PMH", f"set:{spec}", "marc21")))), "x.xml")
    assert {r.venue for r in some} == {name}
    assert ask(Question(f"{base}/oai", "OAI-PMH", "set:nosuch")).total == 0 and titles([]) == []
    assert len(list(harvest(Question(f"{base}/oai", "OAI-PMH"), most=60))) == 60


def test_plain_words_are_meant_together(base):
    found = [r for r in SHELF.records if cql.parse("tide and mill")(r)]
    assert ask(Question(f"{base}/sru", "SRU", "tide mill")).total == len(found) > 0


@pytest.mark.parametrize(
    ("protocol", "path", "query", "says"),
    [
        ("SRU", "/sru", "title = ", "a term is missing"),
        ("SRU", "/sru", "(tide", "never closed"),
        ("SRU", "/sru", "planet = mars", "no index is called planet"),
        ("SRU", "/sru", "", "needs a query"),
        ("SRU", "/nowhere", "tide", "404"),
        ("OAI-PMH", "/oai", "tide", "knows no search"),
        ("OAI-PMH", "/sru", "", "not records|not XML|answers|page|knows"),
    ],
)
def test_what_a_server_says_against_it_is_passed_on(base, protocol, path, query, says):
    try:
        answer = ask(Question(base + path, protocol, query))
    except UserError as error:
        import re

        assert re.search(says, str(error)), error
    else:
        assert path == "/sru" and not answer.records


def test_only_the_web_is_asked(base):
    for address in ("file:///etc/passwd", "ftp://x.example/", "x", "http://"):
        with pytest.raises(UserError, match="begins with http"):
            ask(Question(address, "SRU", "tide"))
    with pytest.raises(UserError, match="cannot be reached"):
        ask(Question("http://127.0.0.1:1/sru", "SRU", "tide"))
    with pytest.raises(UserError, match="unknown protocol"):
        ask(Question(f"{base}/sru", "Z39.50", "tide"))


class Moody(BaseHTTPRequestHandler):
    """A server that is busy twice, then redirects, lies, or says nothing of use."""

    asked = 0

    def do_GET(self):
        type(self).asked += 1
        kind = self.path.split("?")[0]
        if kind == "/busy" and type(self).asked < 3:
            self.send_response(503)
            self.send_header("Retry-After", "7")
            self.end_headers()
            return
        if kind == "/away":
            self.send_response(302)
            self.send_header("Location", "file:///etc/passwd")
            self.end_headers()
            return
        body = {"/page": b"<!doctype html><html>no</html>", "/bytes": b"\x89PNG\r\n\0\0"}.get(
            kind,
            b'<searchRetrieveResponse xmlns="x"><numberOfRecords>2</numberOfRecords><records><record><recordData><dc xmlns="y"><t/></dc></recordData></record>'
            b"</records><nextRecordPosition>1</nextRecordPosition></searchRetrieveResponse>",
        )
        self.send_response(200)
        self.end_headers()
        self.wfile.write(body)

    def log_message(self, *arguments):
        pass


@pytest.fixture
def moody():
    server = HTTPServer(("127.0.0.1", 0), Moody)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    Moody.asked = 0
    yield f"http://127.0.0.1:{server.server_address[1]}"
    server.shutdown()
    server.server_close()


def test_a_busy_server_is_waited_for_as_long_as_it_asks(moody):
    waits = []
    answer = ask(Question(f"{moody}/busy", "SRU", "tide"), web=_Web(waits.append))
    assert answer.total == 2 and [w for w in waits if w > 1] == [7.0, 7.0]
    assert _wait("900") == 60.0 and _wait("soon") == 5.0 and _wait("Wed, 21 Oct 2015 07:28:00 GMT") == 1.0


def test_a_server_that_never_ends_is_not_followed_for_ever(moody):
    assert len(list(harvest(Question(f"{moody}/loop", "SRU", "tide"), most=50))) == 1


@pytest.mark.parametrize(("path", "says"), [("/page", "web page"), ("/bytes", "not XML"), ("/away", "reached|answers")])
def test_answers_that_are_no_records_are_refused(moody, path, says):
    with pytest.raises(UserError, match=says):
        ask(Question(moody + path, "SRU", "tide"))


RECORD = RawRecord(
    1,
    title="Tide mills of the marsh",
    year=1998,
    persons=["Dray, Tamsin"],
    keywords=["tide mill", "oak"],
    venue="Mud and Silt",
)


@pytest.mark.parametrize(
    ("query", "found"),
    [
        ("tide", True),
        ('"tide mills"', True),
        ('"mills tide"', False),
        ("title = tide and date > 1990", True),
        ("title = tide not subject = oak", False),
        ('creator any "dray vash"', True),
        ('creator all "dray vash"', False),
        ('dc.date within "1990 2000"', True),
        ("date = 1999 or (subject = oak)", True),
        ("cql.allRecords = 1", True),
        ('title == "tide mills of the marsh"', True),
        ("date <= 1997", False),
    ],
)
def test_the_query_language(query, found):
    assert cql.parse(query)(RECORD) is found


@given(st.text(alphabet='abc ()"=<>\\and or not ', max_size=30))
@settings(max_examples=300)
def test_any_query_is_a_test_or_an_error(query):
    try:
        assert cql.parse(query)(RECORD) in (True, False)
    except cql.QueryError as error:
        assert str(error)


@given(
    st.dictionaries(
        st.sampled_from(
            [
                "verb",
                "operation",
                "query",
                "startRecord",
                "maximumRecords",
                "recordSchema",
                "metadataPrefix",
                "resumptionToken",
                "set",
                "from",
                "identifier",
            ]
        ),
        st.sampled_from(
            [
                "",
                "ListRecords",
                "GetRecord",
                "Identify",
                "ListSets",
                "x",
                "1",
                "-1",
                "0!oai_dc!!!",
                "999!oai_dc!!!",
                "a!b",
                "oai_dc",
                "tide",
                "mods",
            ]
        ),
    )
)
@settings(max_examples=150)
def test_the_stand_in_answers_anything_with_xml(asked):
    from xml.etree import ElementTree

    for answer in (sru(SHELF, asked), oai(SHELF, asked, "http://x")):
        ElementTree.fromstring(answer)
    assert isinstance(Answer(), Answer)


def test_a_catalogue_never_sends_us_into_this_machine_unless_it_was_asked_there(base, monkeypatch):
    from umber_knot.gather.catalogue import client

    class Sending(BaseHTTPRequestHandler):
        def do_GET(self):
            self.send_response(302)
            self.send_header("Location", f"{base}/sru?{self.path.partition('?')[2]}")
            self.end_headers()

        def log_message(self, *args):
            pass

    server = HTTPServer(("127.0.0.1", 0), Sending)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    question = Question(f"http://127.0.0.1:{server.server_address[1]}/x", "SRU", "silt", "dc")
    assert ask(question).total >= 0  # asked here, sent on to here
    real = client._addresses
    # a server elsewhere, as far as names go
    monkeypatch.setattr(client, "_addresses", lambda host: {"203.0.113.9"} if host == "localhost" else real(host))
    far = Question(question.address.replace("127.0.0.1", "localhost"), "SRU", "silt", "dc")
    with pytest.raises(UserError, match="its own network"):
        ask(far)
    server.shutdown()
    for host, inside in (
        ("127.0.0.1", True),
        ("10.1.2.3", True),
        ("192.168.0.7", True),
        ("::1", True),
        ("8.8.8.8", False),
        ("no.such.invalid", False),
    ):
        assert client._inside(host) is inside, host
