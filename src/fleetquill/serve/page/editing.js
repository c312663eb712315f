"use strict";

/** The editor: the files of the document that is shown, saved to where they are. */
const editing = {
  on: false, // whether it is shown
  editor: null,
  nonce: "", // of the style that it adds
  document: "", // that the file belongs to
  name: "", // of the file
  tag: "", // of what it was when it was read, or saved
  dirty: false, // whether the text is another than the file's
  saving: null,
  pause: 0,
  turn: 0, // which file was asked for last
  state: null, // of the document: its remarks, its fault
};
const PAUSE = 350; // ms without typing after which it is saved

const fileAt = (name, document = shown.name) => `documents/${encodeURIComponent(document)}/files/${name.split("/").map(encodeURIComponent).join("/")}`;
const lastPart = (name) => name.slice(name.lastIndexOf("/") + 1);

function saidOfFile(text) {
  at("saved").textContent = text;
}

async function beginEditing(nonce) {
  editing.nonce = nonce;
  at("editing").hidden = false;
  at("editing").onclick = () => openEditor(!editing.on);
  at("files").onchange = () => openFile(at("files").value);
  at("save").onclick = () => saveFile();
  at("typing").onchange = () => { if (editing.dirty && at("typing").checked) saveFile(); };
  at("theirs").onclick = async () => { at("clash").hidden = true; editing.dirty = false; await openFile(editing.name); };
  at("mine").onclick = async () => { at("clash").hidden = true; editing.tag = (await fetchFile(editing.name)).tag; saveFile(); };
  addEventListener("beforeunload", (event) => { if (editing.dirty) event.preventDefault(); });
}

async function openEditor(on, name = "", line = 0) {
  editing.on = on;
  at("editing").setAttribute("aria-pressed", on);
  at("editor").hidden = !on;
  const before = place();
  sized();
  goTo(before.page, before.share);
  if (!on) return;
  if (!editing.editor) {
    const { edit } = await import("./editor.js");
    editing.editor = edit(at("text"), { changed: changedText, save: saveFile, nonce: editing.nonce, label: (file) => `Text of ${file}` });
  }
  await listFiles();
  const wanted = name || (at("files").value || "");
  if (wanted && wanted !== editing.name) await openFile(wanted);
  if (line) editing.editor.goTo(line);
  else editing.editor.focus();
}

/** The files of the document; what it is made from may have become another. */
async function listFiles() {
  const names = await ask(`documents/${encodeURIComponent(shown.name)}/files`);
  const before = editing.name;
  at("files").replaceChildren(...names.map((name) => made("option", name)));
  if (names.includes(before)) at("files").value = before;
  return names;
}

async function fetchFile(name) {
  const answer = await fetch(fileAt(name), { cache: "no-store" });
  const text = await answer.text();
  if (!answer.ok) throw new Error(text);
  return { text, tag: answer.headers.get("ETag") };
}

async function openFile(name) {
  if (editing.dirty) await saveFile();
  if (editing.dirty) { at("files").value = editing.name; return; } // it could not be saved, and is kept
  const turn = ++editing.turn;
  try {
    const { text, tag } = await fetchFile(name);
    if (turn !== editing.turn) return; // another was chosen since
    Object.assign(editing, { document: shown.name, name, tag, dirty: false });
    at("files").value = name;
    editing.editor.show(text, name);
    saidOfFile("");
    markLines();
  } catch (error) {
    saidOfFile(error.message);
  }
}

function changedText() {
  editing.dirty = true;
  saidOfFile("not saved");
  clearTimeout(editing.pause);
  if (at("typing").checked && at("clash").hidden) editing.pause = setTimeout(saveFile, PAUSE);
}

async function saveFile() {
  clearTimeout(editing.pause);
  if (!editing.name || !editing.dirty) return;
  await editing.saving; // one after another
  editing.saving = sendFile(editing.name, editing.editor.text());
  await editing.saving;
}

async function sendFile(name, text) {
  const answer = await fetch(fileAt(name, editing.document), { method: "PUT", body: text, headers: { "If-Match": editing.tag, "Content-Type": "text/plain" } })
    .catch((error) => ({ ok: false, status: 0, text: async () => error.message }));
  if (name !== editing.name) return;
  if (!answer.ok) {
    at("clash").hidden = answer.status !== 412;
    saidOfFile(answer.status === 412 ? "not saved" : await answer.text());
    return;
  }
  editing.tag = answer.headers.get("ETag");
  editing.dirty = editing.editor.text() !== text;
  saidOfFile(editing.dirty ? "not saved" : "saved");
}

/** The document was made again: another may have saved the file that is open. */
async function editorSees(state) {
  editing.state = state;
  if (!editing.on || !editing.editor) return;
  const names = await listFiles();
  if (editing.document !== shown.name || !names.includes(editing.name)) {
    if (names.length) await openFile(names[0]); // what was typed in the one before is saved first
    return;
  }
  await editing.saving;
  const known = editing.tag;
  const { text, tag } = await fetchFile(editing.name);
  if (tag !== known && editing.tag === known && !editing.dirty) { // nor was it saved from here meanwhile
    editing.tag = tag;
    if (text !== editing.editor.text()) editing.editor.take(text);
  }
  markLines();
}

/** Marks the lines that remarks and the fault speak of. */
function markLines() {
  const { state } = editing;
  if (!state) return;
  const own = lastPart(editing.name);
  const marks = state.remarks.filter((remark) => remark.source === own).map(({ line, message }) => ({ line, message, severity: "warning" }));
  if (state.place?.source === own) marks.push({ line: state.place.line, message: state.fault, severity: "error" });
  editing.editor.mark(marks);
}

/** Leads to a line of a file of the document, where files can be edited. */
async function leadTo(source, line) {
  if (at("editing").hidden || !source || !line) return;
  const name = (await listFiles()).find((one) => lastPart(one) === source);
  if (name) await openEditor(true, name, line);
}
