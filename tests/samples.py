"""One small file of every format, all of the invented Brackwater: file name → bytes."""

import io
import json
import zipfile
from functools import cache

from umber_knot.demo.documents import docx, pdf

NBIB = """PMID- 990001
OWN - NLM
DP  - 1998 May 3
TI  - Sluice timing in the upper estuary.
LID - 10.99999/brackwater.1 [doi]
AB  - Gates open late. The mill pond fills
      on every spring tide.
FAU - Vashley, Orrin
AU  - Vashley O
AUID- ORCID: 0000-0001-2345-6789
AD  - Dept of Mud, University of Eastmere, Eastmere EM4 2QX, England.
FAU - Dray, Tamsin
AU  - Dray T
AD  - Holm Institute, Holm, Norway.
LA  - eng
PT  - Journal Article
JT  - Journal of Estuary Works
VI  - 12
PG  - 34-56
MH  - *Mills/history
OT  - sluice gate
OT  - spring tide

PMID- 990002
DP  - 2001
TI  - Old carbon.
FAU - Maddern, Ilse
JT  - Marsh and Carbon
"""

TAGGED = """FN Brackwater Index
VR 1.0
PT J
AU Vashley, O
   Dray, T
AF Vashley, Orrin
   Dray, Tamsin
TI Sluice timing in the
   upper estuary
SO JOURNAL OF ESTUARY WORKS
LA English
DE sluice gate; spring tide
ID MILLS; TIDE
C1 [Vashley, Orrin; Dray, Tamsin] Univ Eastmere, Dept Mud, Eastmere, England.
   [Dray, Tamsin] Holm Inst, Holm, Norway.
CR Elder A, 1901, T OLD MARSH, V3, P12
   Maddern I, 2001, MARSH CARBON, V41, P7, DOI 10.99999/brackwater.2
TC 7
PD MAY
PY 1998
VL 12
BP 34
EP 56
DI 10.99999/brackwater.1
UT BW:0001
ER

PT J
AU Maddern, I
TI Old carbon under new cordgrass
SO MARSH AND CARBON
PY 2001
VL 41
BP 7
DI 10.99999/brackwater.2
ER

EF
"""

TAB = (
    "PT\tAU\tTI\tSO\tPY\tDE\tCR\tTC\nJ\tVashley, O; Dray, T\tSluice timing\tJournal of Estuary Works\t1998\tsluice gate; tide\t"
    "Elder A, 1901, T OLD MARSH; Maddern I, 2001, MARSH CARBON\t7\n"
)

MARCXML = """<?xml version="1.0" encoding="UTF-8"?>
<collection xmlns="http://www.loc.gov/MARC21/slim">
<record>
<leader>00000nam a2200000 a 4500</leader>
<controlfield tag="001">bw1</controlfield>
<controlfield tag="008">980101s1998    xxu           000 0 eng d</controlfield>
<datafield tag="100" ind1="1" ind2=" "><subfield code="a">Vashley, Orrin,</subfield><subfield code="4">aut</subfield></datafield>
<datafield tag="245" ind1="1" ind2="0"><subfield code="a">Sluice timing in the upper estuary /</subfield></datafield>
<datafield tag="260" ind1=" " ind2=" "><subfield code="a">Low Quay :</subfield><subfield code="b">Marsh Press,</subfield><subfield code="c">c1998.</subfield></datafield>
<datafield tag="650" ind1=" " ind2="0"><subfield code="a">Tide mills</subfield><subfield code="x">History.</subfield></datafield>
<datafield tag="700" ind1="1" ind2=" "><subfield code="a">Dray, Tamsin A.,</subfield><subfield code="e">editor.</subfield></datafield>
</record>
</collection>
"""

MODS = """<?xml version="1.0" encoding="UTF-8"?>
<modsCollection xmlns="http://www.loc.gov/mods/v3"><mods ID="bw1">
<titleInfo><nonSort>The</nonSort><title>sluice timing</title><subTitle>a study</subTitle></titleInfo>
<name type="personal"><namePart type="family">Vashley</namePart><namePart type="given">Orrin</namePart>
<role><roleTerm type="code">aut</roleTerm></role><affiliation>Holm Institute, Holm, Norway</affiliation></name>
<name type="personal"><namePart>Dray, Tamsin</namePart><role><roleTerm>editor</roleTerm></role></name>
<originInfo><dateIssued>1998-05</dateIssued></originInfo>
<language><languageTerm type="code">eng</languageTerm></language>
<subject><topic>tide mill</topic></subject>
<relatedItem type="host"><titleInfo><title>Journal of Estuary Works</title></titleInfo><part><detail type="volume"><number>12</number></detail>
<extent unit="page"><start>34</start><end>56</end></extent></part></relatedItem>
<identifier type="doi">10.99999/brackwater.1</identifier></mods></modsCollection>
"""

DC = """<?xml version="1.0" encoding="UTF-8"?>
<records><oai_dc:dc xmlns:oai_dc="http://www.openarchives.org/OAI/2.0/oai_dc/" xmlns:dc="http://purl.org/dc/elements/1.1/">
<dc:title>Sluice timing</dc:title><dc:creator>Vashley, Orrin</dc:creator><dc:subject>sluice gate; tide</dc:subject>
<dc:date>1998</dc:date><dc:identifier>https://doi.org/10.99999/brackwater.1</dc:identifier><dc:language>eng</dc:language>
</oai_dc:dc></records>
"""

JATS = """<?xml version="1.0"?>
<!DOCTYPE article PUBLIC "-//NLM//DTD JATS (Z39.96) Journal Publishing DTD v1.2//EN" "jats.dtd">
<article article-type="research-article" xml:lang="en"><front><journal-meta><journal-title-group><journal-title>Journal of Estuary Works</journal-title>
</journal-title-group></journal-meta><article-meta><article-id pub-id-type="doi">10.99999/brackwater.1</article-id>
<title-group><article-title>Sluice timing in the <italic>upper</italic> estuary&nbsp;works</article-title></title-group>
<contrib-group><contrib contrib-type="author"><name><surname>Vashley</surname><given-names>Orrin</given-names></name>
<contrib-id contrib-id-type="orcid">https://orcid.org/0000-0001-2345-6789</contrib-id></contrib></contrib-group>
<aff id="a1"><label>1</label>Holm Institute, Holm, Norway</aff>
<pub-date><day>3</day><month>5</month><year>1998</year></pub-date><volume>12</volume><fpage>34</fpage><lpage>56</lpage>
<abstract><p>Gates open late.</p></abstract><kwd-group><kwd>sluice gate</kwd></kwd-group></article-meta></front>
<body><sec><title>Method</title><p>We walked the bank.</p></sec></body>
<back><ref-list><ref id="r1"><element-citation><person-group><name><surname>Maddern</surname><given-names>I</given-names></name></person-group>
<year>2001</year><article-title>Old carbon under new cordgrass</article-title><source>Marsh and Carbon</source><volume>41</volume><fpage>7</fpage>
</element-citation></ref><ref id="r2"><mixed-citation>Elder A. The old marsh. 1901.</mixed-citation></ref></ref-list></back></article>
"""

CSL = json.dumps(
    [
        {
            "id": "bw1",
            "type": "article-journal",
            "title": "Sluice timing",
            "author": [{"family": "Vashley", "given": "Orrin"}],
            "editor": [{"family": "Merle", "non-dropping-particle": "van der", "given": "Jory"}],
            "issued": {"date-parts": [[1998, 5, 3]]},
            "container-title": "Journal of Estuary Works",
            "DOI": "10.99999/brackwater.1",
            "volume": "12",
        }
    ],
    indent=1,
)

CROSSREF = json.dumps(
    {
        "status": "ok",
        "message-type": "work-list",
        "message": {
            "items": [
                {
                    "DOI": "10.99999/brackwater.1",
                    "type": "journal-article",
                    "title": ["Sluice timing"],
                    "container-title": ["Journal of Estuary Works"],
                    "author": [
                        {
                            "family": "Vashley",
                            "given": "Orrin",
                            "ORCID": "http://orcid.org/0000-0001-2345-6789",
                            "affiliation": [{"name": "Holm Institute, Holm, Norway"}],
                        }
                    ],
                    "issued": {"date-parts": [[1998, 5]]},
                    "is-referenced-by-count": 7,
                    "reference-count": 1,
                    "reference": [
                        {
                            "author": "Maddern",
                            "year": "2001",
                            "journal-title": "Marsh and Carbon",
                            "volume": "41",
                            "first-page": "7",
                        }
                    ],
                }
            ]
        },
    }
)

OPENALEX = (
    json.dumps(
        {
            "id": "https://openalex.org/W1",
            "doi": "https://doi.org/10.99999/brackwater.1",
            "title": "Sluice timing",
            "publication_year": 1998,
            "authorships": [
                {
                    "author": {"display_name": "Orrin Vashley", "orcid": "https://orcid.org/0000-0001-2345-6789"},
                    "institutions": [{"display_name": "Holm Institute", "country_code": "NO"}],
                }
            ],
            "referenced_works": ["https://openalex.org/W2"],
            "cited_by_count": 7,
            "keywords": [{"display_name": "sluice gate"}],
            "abstract_inverted_index": {"Gates": [0], "late": [2], "open": [1]},
            "primary_location": {"source": {"display_name": "Journal of Estuary Works"}},
        }
    )
    + "\n"
    + json.dumps({"id": "https://openalex.org/W2", "title": "Old carbon", "publication_year": 2001, "authorships": []})
    + "\n"
)

TEI = """<?xml version="1.0" encoding="UTF-8"?>
<TEI xmlns="http://www.tei-c.org/ns/1.0"><teiHeader><profileDesc>
<correspDesc key="L1"><correspAction type="sent"><persName ref="#p1">Peregrine Holt</persName><placeName>Low Quay</placeName>
<date notBefore="1811-05-01" notAfter="1811-06-30"/></correspAction>
<correspAction type="received"><persName>Josiah Lund</persName><persName>Hester Pask</persName></correspAction></correspDesc>
<correspDesc key="L2"><correspAction type="sent"><persName>Josiah Lund</persName><date when="1812" cert="low"/></correspAction>
<correspAction type="received"><persName ref="#p1">Peregrine Holt</persName></correspAction></correspDesc>
</profileDesc></teiHeader></TEI>
"""

MAIL = """Message-ID: <m2@brackwater.example>
In-Reply-To: <m1@brackwater.example>
References: <m1@brackwater.example>
Date: Mon, 4 Mar 2019 10:11:12 +0100
From: =?utf-8?q?Anke_S=C3=B8rlie?= <anke@brackwater.example>
To: "Dray, Tamsin" <tamsin@brackwater.example>, orrin@brackwater.example
Cc: Ilse Maddern <ilse@brackwater.example>
Subject: Re: The pond at Low Quay
Content-Type: text/plain; charset=utf-8
Content-Transfer-Encoding: quoted-printable

The pond is full again=2C and the gate leaks.

On Sun, 3 Mar 2019, Tamsin Dray wrote:
> Is the pond full?

Come and see.

--{}
Anke S=C3=B8rlie, Holm Institute
""".replace("{}", " ")

MARKDOWN = """---
title: The pond at Low Quay
author: Tamsin Dray; Orrin Vashley
date: 2017-04
---

Before all headings.

# Gates

The *gate* leaks at [Low Quay](https://brackwater.example).

## Oak

- The lintel is oak.
- The sill is elm.
"""

HTML = """<!doctype html><html lang="en"><head><title>The pond</title><meta name="author" content="Tamsin Dray"><script>alert(1)</script></head>
<body><nav>menu</nav><h1>Gates</h1><p>The gate &amp; the sill<br>leak.</p><ul><li>Oak</li></ul></body></html>
"""

OPML = """<?xml version="1.0"?><opml version="2.0"><head><title>Plan</title><ownerName>Tamsin Dray</ownerName></head>
<body><outline text="Mills"><outline text="Gates"><outline text="The gate leaks." _note="Seen twice."/></outline><outline text="The pond is full."/></outline></body></opml>
"""

GRAPHML = """<?xml version="1.0"?><graphml xmlns="http://graphml.graphdrawing.org/xmlns"><key id="d0" for="node" attr.name="label" attr.type="string"/>
<key id="d1" for="edge" attr.name="weight" attr.type="double"/><graph edgedefault="undirected">
<node id="a"><data key="d0">Orrin Vashley</data></node><node id="b"><data key="d0">Tamsin Dray</data></node><node id="c"/>
<edge source="a" target="b"><data key="d1">2.5</data></edge><edge source="b" target="a" directed="true"/><edge source="a" target="a"/>
</graph></graphml>
"""

GML = """Creator "hand"
graph [ directed 1
 node [ id 1 label "Orrin &amp; Co" graphics [ x 1.0 y 2.0 ] ]
 node [ id 2 label "Tamsin Dray" ]
 node [ id 3 ]
 edge [ source 1 target 2 value 2.5 ]
 edge [ source 1 target 2 ]
]
"""

NODE_LINK = json.dumps(
    {
        "directed": False,
        "nodes": [{"id": "a", "label": "Orrin Vashley"}, {"id": "b"}, {"id": "c"}],
        "links": [{"source": "a", "target": "b", "weight": 2.5}, {"source": 0, "target": 0}],
    }
)

DOT = """/* a comment */ digraph mills {
  node [shape=box]; rank=same
  a [label="Orrin Vashley"]; b; "Tamsin -- Dray"
  a -> b -> c [weight=2]
  subgraph cluster { d; e } -> a
}
"""

TIES = (
    "source,target,weight\nOrrin Vashley,Tamsin Dray,2.5\nOrrin Vashley,Orrin Vashley,1\nTamsin Dray,Orrin Vashley,1\n"
)
MATRIX = ",a,b,c\na,0,2,0\nb,2,0,1\nc,0,1,0\n"
LETTERS = "Absender;Empfänger;Datum;Ort\nPeregrine Holt;Josiah Lund;um 1811;Low Quay\nJosiah Lund;Peregrine Holt, Hester Pask;1812-05;\n"
WIDE = "name,flood meeting,mill dinner,survey walk\nOrrin Vashley,1,0,1\nTamsin Dray,1,1,0\nIlse Maddern,0,1,1\n"


def zipped(parts):
    file = io.BytesIO()
    with zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, text in parts.items():
            archive.writestr(zipfile.ZipInfo(name, (1980, 1, 1, 0, 0, 0)), text)
    return file.getvalue()


ODT = {
    "mimetype": "application/vnd.oasis.opendocument.text",
    "content.xml": '<office:document-content xmlns:office="urn:oasis:names:tc:opendocument:xmlns:office:1.0" '
    'xmlns:text="urn:oasis:names:tc:opendocument:xmlns:text:1.0"><office:body><office:text><text:h text:outline-level="1">Gates</text:h>'
    "<text:p>The gate<text:s/>leaks.</text:p></office:text></office:body></office:document-content>",
    "meta.xml": '<office:document-meta xmlns:office="urn:oasis:names:tc:opendocument:xmlns:office:1.0" xmlns:dc="http://purl.org/dc/elements/1.1/">'
    "<office:meta><dc:title>The pond</dc:title><dc:creator>Tamsin Dray</dc:creator></office:meta></office:document-meta>",
}


def ods():
    space = "urn:oasis:names:tc:opendocument:xmlns"
    rows = "".join(
        "<table:table-row>"
        + "".join(f'<table:table-cell office:value-type="string"><text:p>{c}</text:p></table:table-cell>' for c in row)
        + "</table:table-row>"
        for row in (("Titel", "Autoren", "Jahr"), ("Sluice timing", "Vashley, Orrin; Dray, Tamsin", "1998"))
    )
    return zipped(
        {
            "mimetype": "application/vnd.oasis.opendocument.spreadsheet",
            "content.xml": f'<office:document-content xmlns:office="{space}:office:1.0" xmlns:table="{space}:table:1.0" xmlns:text="{space}:text:1.0">'
            f'<office:body><office:spreadsheet><table:table table:name="S">{rows}</table:table></office:spreadsheet></office:body></office:document-content>',
            "META-INF/manifest.xml": '<manifest:manifest xmlns:manifest="urn:oasis:names:tc:opendocument:xmlns:manifest:1.0"/>',
        }
    )


def xlsx(rows):
    import openpyxl

    book = openpyxl.Workbook()
    for row in rows:
        book.active.append(row)
    file = io.BytesIO()
    book.save(file)
    return file.getvalue()


def marc():
    from pymarc import Field, Indicators, Record, Subfield

    found = b""
    for utf8 in (True, False):
        record = Record(force_utf8=utf8)
        record.leader = record.leader[:9] + ("a" if utf8 else " ") + record.leader[10:]
        record.add_field(Field(tag="001", data="bw1" if utf8 else "bw2"))
        record.add_field(
            Field(
                tag="100",
                indicators=Indicators("1", " "),
                subfields=[Subfield("a", "Sørlie, Anke," if utf8 else "Vashley, Orrin,")],
            )
        )
        record.add_field(
            Field(
                tag="245",
                indicators=Indicators("1", "0"),
                subfields=[Subfield("a", "Sluice timing in the upper estuary /")],
            )
        )
        record.add_field(Field(tag="260", indicators=Indicators(" ", " "), subfields=[Subfield("c", "1998.")]))
        record.add_field(
            Field(
                tag="650",
                indicators=Indicators(" ", "0"),
                subfields=[Subfield("a", "Tide mills"), Subfield("x", "History.")],
            )
        )
        found += record.as_marc()
    return found


REFER = """%0 Journal Article
%A Tamsin Dray
%A Orrin Vashley
%D 1998
%T Sluice timing in the upper
   estuary
%J Mud and Silt
%V 12
%P 34--56
%K *sluice gate; tide
%R 10.99999/brackwater.1
%Z kept in box 4

%A Anke Sorlie
%T Oak lintels
%B Papers of the Mill Trust
%D May 1999
%E Orrin Vashley
"""
ATOM = """<?xml version="1.0" encoding="UTF-8"?>
<feed xmlns="http://www.w3.org/2005/Atom" xmlns:p="http://preprints.example/schemas">
<title>A question</title><updated>2024-05-01T00:00:00Z</updated>
<entry><id>http://preprints.example/abs/9804.0001v2</id><updated>2001-01-02T00:00:00Z</updated>
<published>1998-04-03T10:00:00Z</published><title>Sluice timing in the
 upper estuary</title><summary>The gate leaks.</summary>
<author><name>Tamsin Dray</name><p:affiliation>University of Eastmere, Eastmere, Norway</p:affiliation></author>
<author><name>Orrin Vashley</name></author><p:comment>12 pages</p:comment>
<category term="physics.flu-dyn" scheme="x"/><p:doi>10.99999/brackwater.1</p:doi>
<link href="http://preprints.example/abs/9804.0001v2"/></entry></feed>
"""
BIBTEXML = """<?xml version="1.0"?>
<bibtex:file xmlns:bibtex="http://bibtexml.example/">
<bibtex:entry id="bw1"><bibtex:article><bibtex:author>Vashley, Orrin and S{\\o}rlie, Anke</bibtex:author>
<bibtex:title>Sluice timing</bibtex:title><bibtex:journal>Mud and Silt</bibtex:journal><bibtex:year>1998</bibtex:year>
<bibtex:keywords>sluice gate, tide</bibtex:keywords></bibtex:article></bibtex:entry></bibtex:file>
"""
MARC_JSON = """[{"leader": "00000cam a2200000 a 4500", "fields": [{"001": "bw1"},
{"100": {"ind1": "1", "ind2": " ", "subfields": [{"a": "Vashley, Orrin,"}]}},
{"245": {"ind1": "1", "ind2": "0", "subfields": [{"a": "Sluice timing :"}, {"b": "a study /"}, {"c": "by O. Vashley."}]}},
{"250": {"ind1": " ", "ind2": " ", "subfields": [{"a": "2nd ed."}]}},
{"260": {"ind1": " ", "ind2": " ", "subfields": [{"a": "Fairpoint :"}, {"b": "Mill Press,"}, {"c": "1998."}]}},
{"490": {"ind1": " ", "ind2": " ", "subfields": [{"a": "Mud papers ;"}, {"v": "7"}]}},
{"650": {"ind1": " ", "ind2": "0", "subfields": [{"a": "Sluice gates"}, {"z": "Eastmere."}]}}]}]
"""
MEDLINE_XML = """<?xml version="1.0"?>
<!DOCTYPE CitationSet PUBLIC "-//X//DTD//EN" "https://dtd.example/x.dtd">
<CitationSet><Entry><MedlineCitation><PMID Version="1">99</PMID>
<Article><Journal><ISSN>1111-2222</ISSN><JournalIssue><Volume>12</Volume><Issue>3</Issue>
<PubDate><Year>1998</Year><Month>May</Month></PubDate></JournalIssue><Title>Mud and Silt</Title></Journal>
<ArticleTitle>Sluice timing in the <i>upper</i> estuary.</ArticleTitle><Pagination><MedlinePgn>34-56</MedlinePgn></Pagination>
<ELocationID EIdType="doi">10.99999/brackwater.1</ELocationID>
<Abstract><AbstractText Label="BACKGROUND">The gate leaks.</AbstractText><AbstractText Label="RESULTS">It was mended.</AbstractText></Abstract>
<AuthorList><Author><LastName>Dray</LastName><ForeName>Tamsin</ForeName><Initials>T</Initials>
<Identifier Source="ORCID">https://orcid.org/0000-0002-1825-0097</Identifier>
<AffiliationInfo><Affiliation>Dept of Mud, University of Eastmere, Eastmere, Norway. t@eastmere.example</Affiliation></AffiliationInfo>
<AffiliationInfo><Affiliation>Mill Trust, Fairpoint, MA, USA.</Affiliation></AffiliationInfo></Author>
<Author><CollectiveName>Marsh, Mill and Mud Group</CollectiveName></Author></AuthorList><Language>eng</Language>
<PublicationTypeList><PublicationType>Journal Article</PublicationType><PublicationType>Review</PublicationType></PublicationTypeList>
<ArticleDate><Year>1997</Year><Month>12</Month><Day>30</Day></ArticleDate></Article>
<ChemicalList><Chemical><NameOfSubstance>Silt</NameOfSubstance></Chemical></ChemicalList>
<MeshHeadingList><MeshHeading><DescriptorName>Tides</DescriptorName><QualifierName MajorTopicYN="Y">history</QualifierName></MeshHeading></MeshHeadingList>
<KeywordList><Keyword>sluice gate</Keyword></KeywordList></MedlineCitation>
<AddedData><ArticleIdList><ArticleId IdType="number">99</ArticleId></ArticleIdList>
<ReferenceList><Reference><Citation>Vashley O. Oak. Mud and Silt. 1990;4(1):5-9</Citation></Reference>
<Reference><ArticleIdList><ArticleId IdType="number">77</ArticleId></ArticleIdList></Reference></ReferenceList></AddedData>
</Entry></CitationSet>
"""


@cache
def samples():
    """File name → bytes, one of every format."""
    text = {
        "a.ris": "TY  - JOUR\nTI  - Sluice timing\nAU  - Vashley, Orrin\nED  - Dray, Tamsin\nPY  - 1998\nDA  - 1998/05/03\nKW  - sluice gate\nER  - \n",
        "a.bib": "@article{bw1,\n title = {Sluice timing},\n author = {Vashley, Orrin and S{\\o}rlie, Anke},\n year = 1998,\n month = may\n}\n",
        "a.nbib": NBIB,
        "tagged.txt": TAGGED,
        "tab.txt": TAB,
        "marc.xml": MARCXML,
        "mods.xml": MODS,
        "dc.xml": DC,
        "jats.xml": JATS,
        "csl.json": CSL,
        "crossref.json": CROSSREF,
        "openalex.jsonl": OPENALEX,
        "tei.xml": TEI,
        "a.eml": MAIL,
        "a.mbox": "From anke Mon Mar  4 10:11:12 2019\n"
        + MAIL
        + "\nFrom anke Mon Mar  4 10:11:12 2019\nFrom: a@b.example\nTo: c@d.example\nSubject: Hi\n\nBody\n",
        "a.md": MARKDOWN,
        "a.html": HTML,
        "a.txt": "The pond\n\nIt was low wa-\nter and the gate leaked.\n\nMore.\n",
        "a.opml": OPML,
        "a.graphml": GRAPHML,
        "a.gml": GML,
        "links.json": NODE_LINK,
        "a.dot": DOT,
        "a.refer": REFER,
        "feed.xml": ATOM,
        "bib.xml": BIBTEXML,
        "marc.json": MARC_JSON,
        "any.json": '[{"title": "Sluice timing", "authors": ["Vashley, Orrin", "Dray, Tamsin"], "year": 1998}]',
        "medline.xml": MEDLINE_XML,
        "pairs.csv": "person,event\nTamsin Dray,Tide day\nOrrin Vash,Tide day\nTamsin Dray,Mud day\nEster Kell,Mud day\n",
        "ties.csv": TIES,
        "matrix.csv": MATRIX,
        "letters.csv": LETTERS,
        "wide.csv": WIDE,
        "a.csv": 'Title,Authors,Year\nSluice timing,"Vashley, Orrin; Dray, Tamsin",1998\n',
    }
    found = {name: value.encode() for name, value in text.items()}
    return found | {
        "a.docx": docx(
            "The pond", "Tamsin Dray", [(1, "Gates"), (0, "The gate leaks."), (2, "Oak"), (0, "The lintel is oak.")]
        ),
        "a.pdf": pdf(
            "The pond",
            "Tamsin Dray",
            ["The gatekeeper remembered extraordinarily high springtides long ago. " * 6] * 14,
            "Brackwater Papers",
        ),
        "a.odt": zipped(ODT),
        "a.ods": ods(),
        "a.mrc": marc(),
        "a.xlsx": xlsx(
            [
                ["Brackwater", None, None],
                ["Título", "Autores", "Año"],
                ["Sluice timing", "Vashley, Orrin; Dray, Tamsin", 1998],
            ]
        ),
    }
