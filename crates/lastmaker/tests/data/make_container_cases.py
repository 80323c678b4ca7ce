#!/usr/bin/env python3
"""Makes the containers under `containers/in` and `containers/out`: the same documents, catalogs
and shortcuts by their real writers, for the old place and for the new one.

Needs openpyxl, python-docx, python-pptx and pylnk3, and, for the documents of an office suite,
`soffice`. Times that writers put in are fixed where they let themselves be.
"""
import bz2, datetime, gzip, io, lzma, pathlib, plistlib, shutil, sqlite3, struct, subprocess, tempfile, zipfile, zlib

HERE = pathlib.Path(__file__).parent / "containers"
OLD = r"D:\Herbarium"
NEW = r"H:\Collections\Herbarium"


def slashes(place):
    return place.replace("\\", "/")


def text_document(place, to):
    import docx
    from docx.opc.constants import RELATIONSHIP_TYPE
    document = docx.Document()
    document.add_paragraph(f"Sheets are kept in {place}\\Sheets\\0412.tif, labels elsewhere.")
    cut = document.add_paragraph()
    half = len(place) // 2
    for piece in (place[:half], place[half:], "\\Loans\\2021.csv"):
        run = cut.add_run(piece)
        run.bold = piece == "\\Loans\\2021.csv"
    document.part.relate_to(f"file:///{place}\\Maps\\base.map", RELATIONSHIP_TYPE.HYPERLINK, is_external=True)
    document.save(to / "letter.docx")


def workbook(place, to):
    import openpyxl
    from openpyxl.workbook.defined_name import DefinedName
    book = openpyxl.Workbook()
    sheet = book.active
    sheet["A1"] = f"{place}\\Sheets\\0412.tif"
    sheet["A2"] = "a label"
    sheet["A2"].hyperlink = f"file:///{place}\\Labels\\narrow.lbl"
    sheet["A3"] = f"='{place}\\[counts.xlsx]Sheet1'!A1"
    sheet["A4"] = f'=HYPERLINK("{place}\\Maps\\base.map", "the map")'
    book.defined_names["Scans"] = DefinedName("Scans", attr_text=f'"{place}\\Sheets"')
    book.save(to / "list.xlsx")


def slides(place, to):
    import pptx
    deck = pptx.Presentation()
    slide = deck.slides.add_slide(deck.slide_layouts[5])
    slide.shapes.title.text = f"From {place}\\Sheets"
    box = slide.shapes.add_textbox(0, 0, 100, 100)
    run = box.text_frame.paragraphs[0].add_run()
    run.text = "the sheets"
    run.hyperlink.address = f"file:///{place}\\Sheets\\0412.tif"
    deck.save(to / "talk.pptx")


FLAT = """<?xml version="1.0" encoding="UTF-8"?>
<office:document xmlns:office="urn:oasis:names:tc:opendocument:xmlns:office:1.0" xmlns:text="urn:oasis:names:tc:opendocument:xmlns:text:1.0" xmlns:draw="urn:oasis:names:tc:opendocument:xmlns:drawing:1.0" xmlns:xlink="http://www.w3.org/1999/xlink" xmlns:svg="urn:oasis:names:tc:opendocument:xmlns:svg-compatible:1.0" xmlns:table="urn:oasis:names:tc:opendocument:xmlns:table:1.0" xmlns:style="urn:oasis:names:tc:opendocument:xmlns:style:1.0" xmlns:fo="urn:oasis:names:tc:opendocument:xmlns:xsl-fo-compatible:1.0" office:version="1.3" office:mimetype="application/vnd.oasis.opendocument.{kind}">
<office:automatic-styles><style:style style:name="T1" style:family="text"><style:text-properties fo:font-weight="bold"/></style:style></office:automatic-styles>
<office:body>{body}</office:body></office:document>
"""


ABSOLUTE = """<?xml version="1.0" encoding="UTF-8"?>
<oor:items xmlns:oor="http://openoffice.org/2001/registry"><item oor:path="/org.openoffice.Office.Common/Save/URL"><prop oor:name="FileSystem" oor:op="fuse"><value>false</value></prop></item></oor:items>
"""


def office_suite(place, to):
    uri = "file:///" + slashes(place)
    text = f"""<office:text><text:p>Kept in {place}\\Sheets, and <text:a xlink:type="simple" xlink:href="{uri}/Labels/narrow.lbl">a label</text:a>.</text:p>
<text:p>{place[:6]}<text:span text:style-name="T1">{place[6:]}\\Loans</text:span></text:p>
<text:p><draw:frame draw:name="f1" text:anchor-type="as-char" svg:width="2cm" svg:height="2cm"><draw:image xlink:href="{uri}/Labels/linden-leaf.png" xlink:type="simple" xlink:show="embed" xlink:actuate="onLoad"/></draw:frame></text:p></office:text>"""
    cells = f"""<office:spreadsheet><table:table table:name="Sheet1"><table:table-row><table:table-cell office:value-type="string"><text:p>{place}\\Sheets\\0412.tif</text:p></table:table-cell><table:table-cell office:value-type="string"><text:p><text:a xlink:type="simple" xlink:href="{uri}/Labels/narrow.lbl">a label</text:a></text:p></table:table-cell></table:table-row></table:table></office:spreadsheet>"""
    with tempfile.TemporaryDirectory() as folder:
        folder = pathlib.Path(folder)
        # Links are saved as they are, not relative to the document.
        (folder / "profile/user").mkdir(parents=True)
        (folder / "profile/user/registrymodifications.xcu").write_text(ABSOLUTE)
        (folder / "suite-text.fodt").write_text(FLAT.format(kind="text", body=text))
        (folder / "suite-cells.fods").write_text(FLAT.format(kind="spreadsheet", body=cells))
        for name, kinds in (("suite-text.fodt", ("odt", "docx")), ("suite-cells.fods", ("ods", "xlsx"))):
            for kind in kinds:
                subprocess.run(["soffice", "--headless", f"-env:UserInstallation=file://{folder}/profile",
                                "--convert-to", kind, "--outdir", str(to), str(folder / name)],
                               check=True, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)


def property_lists(place, to):
    settings = {
        "root": place + "\\Sheets",
        "recent": [f"file:///{slashes(place)}/Maps/base.map", place + "\\Labels\\wide.lbl", "nothing"],
        place + "\\Sheets": {"zoom": 2, "note": f"Gr\u00f6\u00dfe {place}"},
        "count": 7, "scale": 1.5, "seen": datetime.datetime(2021, 5, 4, 3, 2, 1), "raw": b"\0\1\2\3\4\5",
    }
    settings["nested"] = plistlib.dumps({"last": place + "\\Loans\\2021.csv"}, fmt=plistlib.FMT_BINARY)
    (to / "viewer.plist").write_bytes(plistlib.dumps(settings, fmt=plistlib.FMT_BINARY, sort_keys=False))
    archive = {
        "$version": 100000, "$archiver": "NSKeyedArchiver", "$top": {"root": plistlib.UID(1)},
        "$objects": ["$null", {"$class": plistlib.UID(3), "path": plistlib.UID(2)}, place + "\\Maps\\soils.map",
                     {"$classname": "MapDesk", "$classes": ["MapDesk", "NSObject"]}],
    }
    (to / "desk.plist").write_bytes(plistlib.dumps(archive, fmt=plistlib.FMT_BINARY, sort_keys=False))


def bencode(value):
    if isinstance(value, int):
        return b"i%de" % value
    if isinstance(value, list):
        return b"l" + b"".join(map(bencode, value)) + b"e"
    if isinstance(value, dict):
        return b"d" + b"".join(bencode(k) + bencode(value[k]) for k in sorted(value)) + b"e"
    value = value.encode() if isinstance(value, str) else value
    return b"%d:%s" % (len(value), value)


def packed(place, to):
    (to / "transfer.state").write_bytes(bencode({
        "save_path": place + "\\Sheets", "pieces": b"\x00\xff\x01", "done": 3,
        "files": [place + "\\Sheets\\0412.tif", "notes.txt"]}))
    xml = f'<?xml version="1.0"?>\n<project base="{place}\\Maps\\base.map">\n  <layer>{place}\\Maps\\soils.map</layer>\n</project>\n'.encode()
    with open(to / "meadows.project.gz", "wb") as raw:
        with gzip.GzipFile("meadows.project", "wb", 6, raw, mtime=1620000000) as out:
            out.write(xml)
    (to / "meadows.bz2").write_bytes(bz2.compress(xml, 9))
    (to / "meadows.xz").write_bytes(lzma.compress(xml, preset=6))
    stream = zlib.compress(xml, 6)
    (to / "meadows.dat").write_bytes(struct.pack(">I", len(xml)) + stream)
    (to / "meadows.zz").write_bytes(stream)
    with zipfile.ZipFile(to / "bundle.zip", "w") as out:
        for name, content, method in (
            ("mimetype", b"application/x-bundle", zipfile.ZIP_STORED),
            ("settings/viewer.ini", f"[paths]\r\nroot={place}\\Sheets\r\n".encode(), zipfile.ZIP_DEFLATED),
            ("settings/desk.json", ('{"root": "%s"}' % place.replace("\\", "\\\\")).encode(), zipfile.ZIP_STORED),
            ("pictures/leaf.bin", bytes(range(256)) * 8, zipfile.ZIP_DEFLATED)):
            info = zipfile.ZipInfo(name, (2021, 5, 4, 3, 2, 0))
            info.compress_type = method
            out.writestr(info, content)
        inner = io.BytesIO()
        with zipfile.ZipFile(inner, "w", zipfile.ZIP_DEFLATED) as nested:
            nested.writestr(zipfile.ZipInfo("deep.txt", (2021, 5, 4, 3, 2, 0)), place + "\\Sheets\n")
        out.writestr(zipfile.ZipInfo("inner.zip", (2021, 5, 4, 3, 2, 0)), inner.getvalue())
        out.comment = b"a bundle"


def shortcuts(place, to):
    import pylnk3
    link = pylnk3.for_file(place + "\\Labels\\printer.exe", arguments=f'--template "{place}\\Labels\\narrow.lbl" --quiet',
                           description="Label printer", icon_file=place + "\\Labels\\linden-leaf.ico", work_dir=place + "\\Labels")
    link.save(str(to / "printer.lnk"))
    link = pylnk3.for_file(place + "\\Sheets")
    link.save(str(to / "sheets.lnk"))


def catalog(place, to):
    path = to / "catalog.sqlite"
    path.unlink(missing_ok=True)
    database = sqlite3.connect(path)
    database.executescript("""
        PRAGMA user_version = 7; PRAGMA application_id = 4711;
        CREATE TABLE folders(id INTEGER PRIMARY KEY, path TEXT UNIQUE NOT NULL);
        CREATE TABLE sheets(id INTEGER PRIMARY KEY, folder TEXT REFERENCES folders(path), name TEXT, uri TEXT,
                            extra TEXT, whole TEXT GENERATED ALWAYS AS (folder || name) VIRTUAL);
        CREATE INDEX by_folder ON sheets(folder);
        CREATE TABLE settings(key TEXT PRIMARY KEY, value) WITHOUT ROWID;
        CREATE TABLE log(line TEXT);
        CREATE TRIGGER told AFTER UPDATE ON sheets BEGIN INSERT INTO log VALUES ('changed'); END;
        CREATE VIRTUAL TABLE notes USING fts5(body);
        CREATE VIRTUAL TABLE named USING fts5(name, folder, content='sheets', content_rowid='id');
        CREATE VIRTUAL TABLE older USING fts4(body);
    """)
    for number, name in enumerate(("2019", "2020", "2021"), 1):
        folder = f"{place}\\Sheets\\{name}\\"
        database.execute("INSERT INTO folders VALUES (?, ?)", (number, folder))
        database.execute("INSERT INTO sheets(id, folder, name, uri, extra) VALUES (?, ?, ?, ?, ?)",
                         (number, folder, f"04{number}.tif", f"file:///{slashes(place)}/Sheets/{name}/04{number}.tif",
                          '{"label": "%s"}' % (place.replace("\\", "\\\\") + "\\\\Labels")))
    database.execute("INSERT INTO settings VALUES (?, ?)", (place + "\\Maps", 3))
    database.execute("INSERT INTO settings VALUES ('last', ?)", (f"{place}\\Maps".encode("utf-8"),))
    database.execute("INSERT INTO settings VALUES ('wide', ?)", (f"{place}\\Maps".encode("utf-16-le"),))
    database.execute("INSERT INTO notes VALUES (?)", (f"{place}\\Sheets\\2019 holds lindens",))
    database.execute("INSERT INTO older VALUES (?)", (f"{place}\\Sheets\\2020 holds maples",))
    database.execute("INSERT INTO named(named) VALUES ('rebuild')")
    database.commit()
    database.execute("VACUUM")
    database.close()


def main():
    for name, place in (("in", OLD), ("out", NEW)):
        to = HERE / name
        shutil.rmtree(to, ignore_errors=True)
        to.mkdir(parents=True)
        for make in (text_document, workbook, slides, property_lists, packed, shortcuts, catalog):
            make(place, to)
        if shutil.which("soffice"):
            office_suite(place, to)


if __name__ == "__main__":
    main()
