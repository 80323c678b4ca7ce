"""Markup: pages, style sheets, Markdown."""

from pathlib import Path
from urllib.parse import unquote

from model import Values, each, syntax


def css(file: Path) -> Values:
    import tinycss2

    def urls(nodes):
        for node in nodes or []:
            if node.type == "error":
                raise ValueError
            if node.type in ("url", "string"):
                yield unquote(node.value)
            yield from urls(getattr(node, "content", None) if node.type != "url" else None)
            yield from urls(getattr(node, "prelude", None))
            yield from urls(getattr(node, "arguments", None))
            yield from urls(getattr(node, "value", None) if node.type == "declaration" else None)

    rules = tinycss2.parse_stylesheet(file.read_text())
    return list(urls(rules))


syntax(
    "css",
    "a.css",
    [
        "a { background: url(file://@P@/a.png) }\n",
        'a { background: url("file://@P@/a.png") }\n',
        "a { background: url('@P@/a.png') }\n",
        "a { background: url(@P@/a.png) }\n",
        '@import "@P@/a.css";\n',
        "a { background: url(file:///@F@/a.png) }\n",
    ],
    each(css),
)


def html(file: Path) -> Values:
    import html5lib

    values = []
    page = html5lib.parse(file.read_text(), namespaceHTMLElements=False)
    for node in page.iter():
        for name, value in node.attrib.items():
            values += [unquote(v) for v in (value.split(", ") if name == "srcset" else [value])]
        values += [t for t in (node.text, node.tail) if t and t.strip()]
    return values


syntax(
    "html",
    "a.html",
    [
        '<a href="file://@P@/a">x</a>',
        "<img src='@P@/a'>",
        "<img src=@P@/a>",
        '<img src="file:///@F@/a">',
        "<p>see @P@/a here</p>",
        '<a href="file://@P@/a%20b">x</a>',
        '<img srcset="file://@P@/a 1x, file://@P@/b 2x">',
    ],
    each(html),
    head="<!doctype html>\n<title>x</title>\n",
)


def markdown(file: Path) -> Values:
    from markdown_it import MarkdownIt

    values = []

    def walk(tokens):
        for token in tokens:
            values.extend(unquote(str(v)) for k, v in token.attrs.items() if k in ("href", "src"))
            if token.type in ("text", "code_inline", "fence", "code_block", "html_inline"):
                values.append(token.content)
            walk(token.children or [])

    walk(MarkdownIt().parse(file.read_text()))
    return values


syntax(
    "markdown",
    "a.md",
    [
        "see @P@/a here\n",
        "see `@P@/a` here\n",
        "[x](@P@/a)\n",
        "[x](<@P@/a b>)\n",
        "[x](file://@P@/a)\n",
        "![x](file://@P@/a%20b 'title')\n",
        "```\ncp @P@/a x\n```\n",
        "<file://@P@/a>\n",
        "see @W@\\a here\n",
        "- @P@/a\n- @P@/b\n",
        "[x]: @P@/a\n\n[x]\n",
    ],
    each(markdown),
)
