#!/usr/bin/env python3
"""Makes `demo/documents`: letters, lists, a catalog and shortcuts of the Linden Herbarium, by their real writers.

Needs what `make_container_cases.py` needs, `soffice` included, and reportlab.
"""
import datetime, gzip, hashlib, pathlib, plistlib, shutil, sqlite3, subprocess, tempfile

import make_container_cases as cases

TO = pathlib.Path(__file__).parents[4] / "demo/documents"
D = r"D:\Herbarium"
URI = "file:///D:/Herbarium"

LETTER = f"""<office:text><text:p>Dear colleagues,</text:p>
<text:p>the sheets of the lindens are in D:\\Her<text:span text:style-name="T1">barium\\Sheets\\2021</text:span>, and the loan list in D:\\Herbarium\\Loans\\loans-2021.csv.</text:p>
<text:p>The label to print stands <text:a xlink:type="simple" xlink:href="{URI}/Labels/narrow.lbl">here</text:a>.</text:p>
<text:p><draw:frame draw:name="leaf" text:anchor-type="as-char" svg:width="2cm" svg:height="2cm"><draw:image xlink:href="{URI}/Labels/linden-leaf.png" xlink:type="simple" xlink:show="embed" xlink:actuate="onLoad"/></draw:frame></text:p></office:text>"""
OLD_LIST = f"""<office:spreadsheet><table:table table:name="Sheet1"><table:table-row><table:table-cell office:value-type="string"><text:p>{D}\\Sheets\\2019\\0133-carex-nigra.tif</text:p></table:table-cell></table:table-row></table:table></office:spreadsheet>"""


def by_the_suite():
    with tempfile.TemporaryDirectory() as folder:
        folder = pathlib.Path(folder)
        (folder / "profile/user").mkdir(parents=True)
        (folder / "profile/user/registrymodifications.xcu").write_text(cases.ABSOLUTE)
        for name, kind, body, into, to in (
                ("reminder.fodt", "text", LETTER, "odt", "letters"),
                ("old-list.fods", "spreadsheet", OLD_LIST, "xls", "lists")):
            (folder / name).write_text(cases.FLAT.format(kind=kind, body=body))
            subprocess.run(["soffice", "--headless", f"-env:UserInstallation=file://{folder}/profile", "--convert-to", into,
                            "--outdir", str(TO / to), str(folder / name)], check=True, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)


def workbook():
    import openpyxl
    book = openpyxl.Workbook()
    sheet = book.active
    sheet["A1"], sheet["B1"] = f"{D}\\Sheets\\2021\\0871-tilia-cordata.tif", "Tilia cordata"
    sheet["A2"] = f"='{D}\\[counts.xlsx]Sheet1'!A1"
    sheet["A3"] = "the map"
    sheet["A3"].hyperlink = f"file:///{D}\\Maps\\base.map"
    book.save(TO / "lists/counts-2021.xlsx")
    counts = openpyxl.Workbook()
    counts.active["A1"] = 4712
    counts.save(TO.parent / "disks/h/Collections/Herbarium/counts.xlsx")


def handout():
    from reportlab.pdfgen import canvas
    page = canvas.Canvas(str(TO / "letters/handout.pdf"), pagesize=(300, 200), invariant=1)
    page.drawString(20, 150, "How to read a sheet: see the base map.")
    page.linkURL(f"{URI}/Maps/base.map", (20, 140, 200, 170))
    page.save()


def catalog():
    path = TO / "catalog/sheets.catalog"
    database = sqlite3.connect(path)
    database.executescript("""
        PRAGMA page_size = 1024;
        CREATE TABLE folders(id INTEGER PRIMARY KEY, path TEXT UNIQUE);
        CREATE TABLE sheets(id INTEGER PRIMARY KEY, folder INTEGER REFERENCES folders(id), name TEXT, label TEXT, note TEXT);
        CREATE TABLE previews(path TEXT, key TEXT);
        CREATE VIRTUAL TABLE search USING fts5(text);
    """)
    for number, name in enumerate((f"{D}\\Sheets\\2019\\", f"{D}\\Sheets\\2021\\", f"{D}\\Sheets\\Types\\", f"{D}\\Labels\\",
                                   "H:\\Collections\\Herbarium\\Labels\\"), 1):
        database.execute("INSERT INTO folders VALUES (?, ?)", (number, name))
    database.execute("INSERT INTO sheets VALUES (1, 2, '0871-tilia-cordata.tif', ?, ?)",
                     (f"{URI}/Labels/narrow.lbl", '{"map": "D:\\\\Herbarium\\\\Maps\\\\base.map"}'))
    database.execute("INSERT INTO search VALUES (?)", (f"Tilia cordata, see {D}\\Maps\\soils.map",))
    shown = "D:/Herbarium/Sheets/2019/0133-carex-nigra.tif"
    database.execute("INSERT INTO previews VALUES (?, ?)", (shown, hashlib.md5(shown.encode()).hexdigest()))
    database.commit()
    database.execute("VACUUM")
    database.close()


def shortcuts():
    import pylnk3
    for name, target, arguments in (("Label printer", f"{D}\\Labels\\narrow.lbl", f'/template "{D}\\Labels\\wide.lbl"'),
                                    ("Maps", f"{D}\\Maps", None)):
        pylnk3.for_file(target, arguments=arguments, work_dir=f"{D}\\Labels").save(str(TO / f"shortcuts/{name}.lnk"))


def others():
    (TO / "lists/desk.plist").write_bytes(plistlib.dumps(
        {"recent": [f"{URI}/Maps/base.map", f"{D}\\Maps\\meadows.project"], "seen": datetime.datetime(2021, 5, 4)}, fmt=plistlib.FMT_BINARY))
    with open(TO / "lists/meadows.project.gz", "wb") as raw:
        with gzip.GzipFile("meadows.project", "wb", 6, raw, mtime=1620000000) as out:
            out.write(f'<?xml version="1.0"?>\n<project base="{D}\\Maps\\base.map">\n  <layer>{D}\\Maps\\overlays\\hedges.map</layer>\n</project>\n'.encode())


shutil.rmtree(TO, ignore_errors=True)
for name in ("letters", "lists", "catalog", "shortcuts"):
    (TO / name).mkdir(parents=True)
for make in (by_the_suite, workbook, handout, catalog, shortcuts, others):
    make()
