// The editor of the proof: a text, its language, marks at lines, and what is told when it changes.

import { defaultKeymap, history, historyKeymap, indentWithTab } from "@codemirror/commands";
import { css } from "@codemirror/lang-css";
import { html } from "@codemirror/lang-html";
import { jinja } from "@codemirror/lang-jinja";
import { json } from "@codemirror/lang-json";
import { markdown } from "@codemirror/lang-markdown";
import { yaml } from "@codemirror/lang-yaml";
import { bracketMatching, HighlightStyle, indentOnInput, indentUnit, syntaxHighlighting } from "@codemirror/language";
import { lintGutter, setDiagnostics } from "@codemirror/lint";
import { highlightSelectionMatches, searchKeymap } from "@codemirror/search";
import { EditorState } from "@codemirror/state";
import { drawSelection, EditorView, highlightActiveLine, highlightActiveLineGutter, keymap, lineNumbers } from "@codemirror/view";
import { tags } from "@lezer/highlight";

const LANGUAGES = {
  html: () => jinja({ base: html() }), htm: () => jinja({ base: html() }), svg: html, css, json, md: markdown, yaml, yml: yaml,
};
const COLOURS = HighlightStyle.define([
  { tag: [tags.tagName, tags.keyword, tags.propertyName], color: "var(--green)" },
  { tag: [tags.attributeName, tags.variableName, tags.className], color: "var(--gold)" },
  { tag: [tags.string, tags.attributeValue, tags.number], color: "var(--ink)" },
  { tag: [tags.comment, tags.meta], color: "var(--soft)", fontStyle: "italic" },
  { tag: tags.invalid, color: "var(--red)" },
]);
const LOOK = EditorView.theme({
  "&": { height: "100%", color: "var(--ink)", backgroundColor: "var(--panel)", fontSize: "13px" },
  ".cm-scroller": { fontFamily: "ui-monospace, monospace", lineHeight: "1.5" },
  ".cm-gutters": { color: "var(--soft)", backgroundColor: "var(--ground)", border: "none" },
  ".cm-activeLine, .cm-activeLineGutter": { backgroundColor: "color-mix(in srgb, var(--gold) 14%, transparent)" },
  ".cm-cursor": { borderLeftColor: "var(--ink)" },
  "&.cm-focused .cm-selectionBackground, .cm-selectionBackground, ::selection": { backgroundColor: "color-mix(in srgb, var(--green) 30%, transparent) !important" },
  ".cm-panels, .cm-tooltip": { color: "var(--ink)", backgroundColor: "var(--panel)", borderColor: "var(--line)" },
});

/** An editor in `parent`; `changed` is called when its text is another, `save` by Ctrl-S; the policy of
 * the page lets style be added that has the `nonce`. */
export function edit(parent, { changed, save, label, nonce }) {
  let quiet = false;
  const allowed = EditorView.cspNonce.of(nonce);
  const view = new EditorView({ parent, extensions: allowed });

  const begun = (text, name) => EditorState.create({
    doc: text,
    extensions: [
      allowed, lineNumbers(), highlightActiveLine(), highlightActiveLineGutter(), history(), drawSelection(), bracketMatching(), indentOnInput(),
      indentUnit.of("  "), highlightSelectionMatches(), lintGutter(), syntaxHighlighting(COLOURS), LOOK, EditorView.lineWrapping,
      EditorView.contentAttributes.of({ "aria-label": label(name) }),
      LANGUAGES[name.split(".").pop().toLowerCase()]?.() ?? [],
      keymap.of([{ key: "Mod-s", run: () => { save(); return true; } }, ...searchKeymap, ...historyKeymap, ...defaultKeymap, indentWithTab]),
      EditorView.updateListener.of((update) => { if (update.docChanged && !quiet) changed(); }),
    ],
  });

  return {
    text: () => view.state.doc.toString(),
    focus: () => view.focus(),
    /** Shows a file anew. */
    show(text, name) {
      view.setState(begun(text, name));
    },
    /** Takes what the file has become elsewhere; where the cursor stands is kept as far as it can be. */
    take(text) {
      quiet = true;
      const { head } = view.state.selection.main;
      view.dispatch({ changes: { from: 0, to: view.state.doc.length, insert: text }, selection: { anchor: Math.min(head, text.length) } });
      quiet = false;
    },
    /** Marks lines: [{ line, message, severity }]. */
    mark(marks) {
      const { doc } = view.state;
      view.dispatch(setDiagnostics(view.state, marks.filter(({ line }) => line >= 1 && line <= doc.lines).map(({ line, ...said }) => {
        const { from, to } = doc.line(line);
        return { from, to, ...said };
      })));
    },
    goTo(line) {
      const { doc } = view.state;
      const { from } = doc.line(Math.min(Math.max(line, 1), doc.lines));
      view.dispatch({ selection: { anchor: from }, effects: EditorView.scrollIntoView(from, { y: "center" }) });
      view.focus();
    },
  };
}
