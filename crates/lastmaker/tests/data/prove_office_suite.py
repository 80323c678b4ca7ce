#!/usr/bin/env python3
"""Proves on the office suite itself that rewritten documents show their pictures and numbers again.

Makes a text document and a workbook with a linked picture, an external cell and a hyperlink in
both families of formats, moves what they point at, looks at them through the suite (the picture
is gone, the number too), rewrites them, and looks again. Needs `soffice` with its bridge
to Python, `pdftoppm`, and the built program, whose path is the only argument.
"""
import pathlib, shutil, struct, subprocess, sys, tempfile, time, zlib

program = pathlib.Path(sys.argv[1]).resolve()
work = pathlib.Path(tempfile.mkdtemp(prefix="linden-"))
old, new = work / "disks/d/Herbarium", work / "disks/h/Collections/Herbarium"
desk = work / "desk"

SETTINGS = f"""<?xml version="1.0" encoding="UTF-8"?>
<oor:items xmlns:oor="http://openoffice.org/2001/registry">
<item oor:path="/org.openoffice.Office.Common/Save/URL"><prop oor:name="FileSystem" oor:op="fuse"><value>false</value></prop></item>
<item oor:path="/org.openoffice.Office.Calc/Content/Update"><prop oor:name="Link" oor:op="fuse"><value>0</value></prop></item>
<item oor:path="/org.openoffice.Office.Writer/Content/Update"><prop oor:name="Link" oor:op="fuse"><value>0</value></prop></item>
<item oor:path="/org.openoffice.Office.Common/Security/Scripting"><prop oor:name="SecureURL" oor:op="fuse"><value><it>file://{work}</it></value></prop></item>
</oor:items>
"""

NAMES = " ".join(f'xmlns:{name}="urn:oasis:names:tc:opendocument:xmlns:{kind}:1.0"' for name, kind in (
    ("office", "office"), ("text", "text"), ("draw", "drawing"), ("svg", "svg-compatible"), ("table", "table")))


def flat(kind, body):
    return (f'<?xml version="1.0" encoding="UTF-8"?>\n<office:document {NAMES} xmlns:xlink="http://www.w3.org/1999/xlink" xmlns:of="urn:oasis:names:tc:opendocument:xmlns:of:1.2" '
            f'office:version="1.3" office:mimetype="application/vnd.oasis.opendocument.{kind}"><office:body>{body}</office:body></office:document>')


def picture():
    """A red square."""
    def chunk(kind, data):
        return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))
    rows = b"".join(b"\0" + b"\xff\0\0" * 64 for _ in range(64))
    return (b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", struct.pack(">IIBBBBB", 64, 64, 8, 2, 0, 0, 0))
            + chunk(b"IDAT", zlib.compress(rows)) + chunk(b"IEND", b""))


def convert(source, kind, to):
    subprocess.run(["soffice", "--headless", f"-env:UserInstallation=file://{work}/profile", "--convert-to", kind,
                    "--outdir", str(to), str(source)], check=True, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    return to / (source.stem + "." + kind.split(":")[0])


def red_dots(document):
    shown = work / "shown"
    shutil.rmtree(shown, ignore_errors=True)
    pdf = convert(document, "pdf", shown)
    subprocess.run(["pdftoppm", "-r", "40", str(pdf), str(shown / "page")], check=True)
    dots = 0
    for page in shown.glob("*.ppm"):
        pixels = page.read_bytes().split(b"\n", 3)[3]
        dots += sum(pixels[at] > 200 and pixels[at + 1] < 60 and pixels[at + 2] < 60 for at in range(0, len(pixels) - 2, 3))
    return dots


def number(document):
    """The first cell, as the suite computes it when it may follow links."""
    import uno
    from com.sun.star.beans import PropertyValue
    office = subprocess.Popen(["soffice", "--headless", "--norestore", f"-env:UserInstallation=file://{work}/profile",
                               "--accept=pipe,name=linden;urp;"], stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    here = uno.getComponentContext()
    resolver = here.ServiceManager.createInstanceWithContext("com.sun.star.bridge.UnoUrlResolver", here)
    for _ in range(100):
        try:
            there = resolver.resolve("uno:pipe,name=linden;urp;StarOffice.ComponentContext")
            break
        except Exception:
            time.sleep(0.2)
    desktop = there.ServiceManager.createInstanceWithContext("com.sun.star.frame.Desktop", there)
    options = [PropertyValue(name, 0, value, 0) for name, value in (("Hidden", True), ("UpdateDocMode", 3), ("MacroExecutionMode", 4))]
    cells = desktop.loadComponentFromURL(document.as_uri(), "_blank", 0, tuple(options))
    dispatcher = there.ServiceManager.createInstanceWithContext("com.sun.star.frame.DispatchHelper", there)
    dispatcher.executeDispatch(cells.CurrentController.Frame, ".uno:UpdateAllLinks", "", 0, ())
    cells.calculateAll()
    text = cells.Sheets.getByIndex(0).getCellByPosition(0, 0).String
    cells.close(True)
    try:
        desktop.terminate()
    except Exception:
        pass
    office.wait()
    return text


def main():
    for folder in (old, new.parent, desk, work / "profile/user"):
        folder.mkdir(parents=True)
    (work / "profile/user/registrymodifications.xcu").write_text(SETTINGS)
    (old / "leaf.png").write_bytes(picture())
    cells = '<office:spreadsheet><table:table table:name="Sheet1"><table:table-row>{}</table:table-row></table:table></office:spreadsheet>'
    (work / "counts.fods").write_text(flat("spreadsheet", cells.format(
        '<table:table-cell office:value-type="float" office:value="4712"><text:p>4712</text:p></table:table-cell>')))
    shutil.move(convert(work / "counts.fods", "ods", work), old / "counts.ods")
    uri = old.as_uri()
    (work / "letter.fodt").write_text(flat("text",
        f'<office:text><text:p>See <text:a xlink:type="simple" xlink:href="{uri}/counts.ods">the counts</text:a> in {old}/counts.ods</text:p>'
        f'<text:p><draw:frame draw:name="leaf" text:anchor-type="as-char" svg:width="4cm" svg:height="4cm"><draw:image '
        f'xlink:href="{uri}/leaf.png" xlink:type="simple" xlink:show="embed" xlink:actuate="onLoad"/></draw:frame></text:p></office:text>'))
    (work / "list.fods").write_text(flat("spreadsheet", cells.format(
        f"<table:table-cell table:formula=\"of:=['{uri}/counts.ods'#$Sheet1.A1]\" office:value-type=\"float\" office:value=\"0\"/>"
        f'<table:table-cell office:value-type="string"><text:p><text:a xlink:type="simple" xlink:href="{uri}/leaf.png">leaf</text:a></text:p></table:table-cell>')))
    texts = [convert(work / "letter.fodt", kind, desk) for kind in ("odt", "docx")]
    lists = [convert(work / "list.fods", kind, desk) for kind in ("ods", "xlsx")]
    # What was cached with the links would show although they lead nowhere.
    before = [(red_dots(one)) for one in texts] + [number(one) for one in lists]
    shutil.move(old, new)
    broken = [(red_dots(one)) for one in texts] + [number(one) for one in lists]
    ran = subprocess.run([program, "rewrite", desk, "--move", f"{old}={new}", "--yes", "--record-dir", work / "records"],
                         capture_output=True, text=True)
    print(ran.stdout, ran.stderr)
    after = [(red_dots(one)) for one in texts] + [number(one) for one in lists]
    print("before:", before, "\nmoved: ", broken, "\nrewritten:", after)
    good = after == before and all(dots > 100 for dots in after[:2]) and all("4712" in text for text in after[2:]) and not any(broken[:2])
    good = good and not any("4712" in text for text in broken[2:])
    shutil.rmtree(work)
    sys.exit(0 if good else "the suite does not show what it showed before")


main()
