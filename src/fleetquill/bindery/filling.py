"""Filling in the fields of finished forms."""

from __future__ import annotations

import os
from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any, BinaryIO

from fleetquill.bindery.appearances import Appearances
from fleetquill.bindery.fields import EDITABLE, MULTIPLE, OFF, FieldNode, choices_of, field_nodes, options_of, states_of
from fleetquill.bindery.flattening import flatten_fields
from fleetquill.bindery.sources import Finished, read_source
from fleetquill.bindery.updating import Update, mended
from fleetquill.errors import DataError, OutputError, SourceError, Where, meant, shown
from fleetquill.guard import guarded
from fleetquill.keywords import told_keywords
from fleetquill.pdf.objects import Name, Ref
from fleetquill.pdf.reading import PdfReader
from fleetquill.pdf.syntax import DAMAGE
from fleetquill.press import Press
from fleetquill.remarks import Remark
from fleetquill.whole_files import write_whole


@told_keywords
def fill_fields(
    source: Finished,
    values: Mapping[str, Any],
    target: str | os.PathLike[str] | BinaryIO,
    *,
    flatten: bool = False,
    password: str | None = None,
    press: Press | None = None,
) -> tuple[Remark, ...]:
    """Fills in fields of a finished form; what is not named stays as it is.

    A text takes a text (or a number, or a date), a checkbox True or False, radio buttons and a list that opens one of
    their choices, a list that takes several a sequence of them; None empties a field. With `flatten` what the fields
    show becomes part of the pages, and nothing can be filled in any more. `password` opens a locked file. Signatures
    that were made before stay as they are. `target` is a path, written whole or not at all, or a binary stream.

    Gives what was remarked. Raises DataError where there is no field of a name, or a value is none of its choices,
    SourceError where the file cannot be read or has no form.
    """
    name, content = read_source(source)
    if name and isinstance(target, (str, os.PathLike)) and Path(target).exists() and Path(target).samefile(name):
        raise OutputError("The output is the form itself.", where=Where(name), remedy="Give it another name.")
    with guarded():
        try:
            found = PdfReader(content, name, password)
            reader = mended(found)
        except DAMAGE as error:
            raise SourceError(f"The file is damaged: {error}", where=Where(name) if name else None) from error
        work = _Filling(reader, press or Press(), name)
        work.remarks += [Remark("damage", repair, name) for repair in dict.fromkeys(found.repairs)]
        work.fill(values)
        if flatten:
            work.remarks += flatten_fields(work.update, work.nodes)
        filled = work.update.finish()
        if isinstance(target, (str, os.PathLike)):
            write_whole(Path(target), lambda stream: _put(stream, filled))
        else:
            target.write(filled)
    return tuple(work.remarks)


def _put(stream: BinaryIO, content: bytes) -> None:
    stream.write(content)


class _Filling:
    """One form that is filled in."""

    def __init__(self, reader: PdfReader, press: Press, source: str) -> None:
        self.reader = reader
        self.update = Update(reader)
        self.nodes = list(field_nodes(reader))
        self.remarks: list[Remark] = []
        self._source = source
        if not self.nodes:
            raise SourceError("The file has no fields to fill in.", where=Where(source) if source else None)
        catalog = reader.catalog
        form = dict(reader.dictionary(catalog.get("AcroForm")))
        self._appearances = Appearances(self.update, form, press)
        if "XFA" in form:
            self._remark("The form has a second description of itself, which readers may prefer: it is taken out.")
            del form["XFA"]
            self._keep_form(form)
        if reader.array(form.get("CO")):
            self._remark("Some fields are worked out by scripts, which are not run.")

    def _remark(self, message: str) -> None:
        self.remarks.append(Remark("field", message, self._source))

    def _keep_form(self, form: dict[str, Any]) -> None:
        root = self.reader.trailer["Root"]
        given = self.reader.catalog.get("AcroForm")
        if isinstance(given, Ref):
            self.update.add(form, given)
        else:
            self.update.add(self.update.dictionary(root) | {"AcroForm": form}, root)

    def fill(self, values: Mapping[str, Any]) -> None:
        """Gives fields their values."""
        if not isinstance(values, Mapping):
            raise DataError(f"Values are a mapping by the names of fields, not {shown(values)}.")
        known = {node.name: node for node in self.nodes}
        for name, value in values.items():
            node = known.get(str(name))
            if node is None:
                raise self._error(f"There is no field '{name}'.", meant(str(name), known))
            if node.kind in ("button", "signature"):
                raise self._error(f"The field '{name}' is a {node.kind}: it takes no value.", "")
            if node.ref is None:
                raise self._error(f"The field '{name}' has no object of its own.", "")
            if node.kind in ("checkbox", "radio"):
                self._tick(node, value)
            elif node.kind == "list":
                self._choose(node, value)
            else:
                self._write(node, value)

    def _error(self, message: str, remedy: str) -> DataError:
        return DataError(message, where=Where(self._source) if self._source else None, remedy=remedy)

    # ---- ticks ----

    def _tick(self, node: FieldNode, value: Any) -> None:
        """Sets a checkbox, or one of several that exclude one another."""
        states = states_of(node, self.reader)
        state = OFF if value is None or value is False else self._state(node, value, states)
        assert node.ref is not None  # seen before
        self.update.add(self.update.dictionary(node.ref) | {"V": Name(state)}, node.ref)
        for ref, widget in node.widgets:
            if ref is None:
                continue
            usual = self.reader.dictionary(self.reader.dictionary(widget.get("AP")).get("N"))
            on = state if state in usual else OFF
            self.update.add(self.update.dictionary(ref) | {"AS": Name(on)}, ref)

    def _state(self, node: FieldNode, value: Any, states: Sequence[str]) -> str:
        if node.kind == "checkbox":
            if value is True or value in states:
                if not states:
                    raise self._error(f"The field '{node.name}' has no mark that shows it ticked.", "")
                return states[0] if value is True else str(value)
            raise self._error(f"The field '{node.name}' is ticked or not, not {shown(value)}.", "Give True or False.")
        choices = choices_of(node, self.reader)
        if value in states:
            return str(value)
        given = [self.reader.text(one) for one in self.reader.array(node.entries.get("Opt"))]
        if value in given and len(given) == len(states):
            return states[given.index(str(value))]
        raise self._error(f"'{value}' is none of the choices of '{node.name}'.", meant(str(value), choices))

    # ---- texts and lists ----

    def _write(self, node: FieldNode, value: Any) -> None:
        text = self._text(node, value)
        longest = node.entries.get("MaxLen")
        if isinstance(longest, int) and len(text) > longest:
            raise self._error(f"'{text}' is longer than the {longest} letters that '{node.name}' takes.", "")
        said = text
        if node.kind == "select":
            text, said = self._choice(node, text) if text else ("", "")
        assert node.ref is not None  # seen before
        entries = self.update.dictionary(node.ref) | {"V": text or None}
        self.update.add({key: one for key, one in entries.items() if key not in ("I", "RV")}, node.ref)
        for ref, widget in node.widgets:
            if ref is not None:
                self._show(ref, self._appearances.of_text(node, widget, said))

    def _text(self, node: FieldNode, value: Any) -> str:
        if value is None:
            return ""
        if isinstance(value, (bool, list, tuple, dict, set, bytes)):
            raise self._error(f"The field '{node.name}' takes a text, not {shown(value)}.", "")
        return str(value)

    def _choice(self, node: FieldNode, text: str) -> tuple[str, str]:
        """A choice as it is in the file, and as it is shown; it may be given as either."""
        options = options_of(node, self.reader)
        for own, said in options:
            if text in (own, said):
                return own, said
        if node.flags & EDITABLE:
            return text, text
        raise self._error(
            f"'{text}' is none of the choices of '{node.name}'.", meant(text, [own for own, _ in options])
        )

    def _choose(self, node: FieldNode, value: Any) -> None:
        given = [] if value is None else [value] if isinstance(value, str) else list(value)
        chosen = [self._choice(node, str(one))[0] for one in given]
        if len(chosen) > 1 and not node.flags & MULTIPLE:
            raise self._error(f"Only one of the choices of '{node.name}' can be chosen.", "")
        places = [at for at, (own, _) in enumerate(options_of(node, self.reader)) if own in chosen]
        assert node.ref is not None  # seen before
        entries = self.update.dictionary(node.ref)
        entries |= {"V": chosen[0] if len(chosen) == 1 else chosen or None, "I": places or None}
        self.update.add(entries, node.ref)
        for ref, widget in node.widgets:
            if ref is not None:
                self._show(ref, self._appearances.of_list(node, widget, chosen))

    def _show(self, ref: Ref, appearance: Ref) -> None:
        self.update.add(self.update.dictionary(ref) | {"AP": {"N": appearance}}, ref)
