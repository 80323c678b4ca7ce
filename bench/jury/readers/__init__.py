"""The readers, a file for each family of syntaxes; each registers its own."""

from . import data, markup, settings, shells, sources, system  # noqa: F401
