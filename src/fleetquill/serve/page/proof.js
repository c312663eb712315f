"use strict";

const PX_PER_POINT = 96 / 72;
const at = (id) => document.getElementById(id);
const shown = { name: "", version: 0, pages: [], picking: 0 };
let near = null; // sees which pages are in view

async function ask(path) {
  const answer = await fetch(path, { cache: "no-store" });
  if (!answer.ok) throw new Error(`${answer.status} ${path}`);
  return answer.json();
}

function made(tag, text = "", kind = "") {
  const element = document.createElement(tag);
  element.textContent = text;
  if (kind) element.className = kind;
  return element;
}

/** Where the reader is: the page at the top of the view, and how far into it. */
function place() {
  const room = at("pages");
  const top = room.getBoundingClientRect().top;
  for (const page of room.children) {
    const box = page.getBoundingClientRect();
    if (box.bottom > top) return { page: Number(page.dataset.number), share: (top - box.top) / box.height };
  }
  return { page: 1, share: 0 };
}

function goTo(number, share = 0, tell = false) {
  const page = at("pages").children[number - 1];
  if (!page) return;
  const room = at("pages");
  room.scrollTop += page.getBoundingClientRect().top - room.getBoundingClientRect().top + share * page.offsetHeight - (share ? 0 : 8);
  if (tell) {
    page.classList.add("told");
    setTimeout(() => page.classList.remove("told"), 1200);
  }
}

function sized() {
  const zoom = at("zoom").value;
  const room = at("pages").clientWidth - 40;
  for (const page of at("pages").children) {
    const [wide, high] = shown.pages[page.dataset.number - 1];
    const scale = zoom === "fit" ? Math.min(room / wide, 1.6) : Number(zoom) * PX_PER_POINT;
    page.style.width = `${wide * scale}px`;
    page.style.height = `${high * scale}px`;
    rule(page, scale);
  }
}

const MM = 72 / 25.4; // points
const isRuled = () => at("ruling").getAttribute("aria-pressed") === "true";

function ruler(kind, length, scale, side) {
  const found = made("div", "", `ruler ${kind}`);
  const step = MM * scale * 5;
  found.style.setProperty("--step", `${step}px`);
  for (let mm = 20; mm * MM < length - 6; mm += 20) {
    const figure = made("i", mm);
    figure.style[side] = `${mm * MM * scale + 2}px`;
    found.append(figure);
  }
  return found;
}

/** Rulers in millimetres along a page, and a frame around its area. */
function rule(page, scale) {
  page.querySelectorAll(".ruler, .area, .column").forEach((old) => old.remove());
  if (!isRuled()) return;
  if (page.dataset.drawn) drawColumns(page);
  const [wide, high, x, y, width, height] = shown.pages[page.dataset.number - 1];
  const area = made("div", "", "area");
  const sides = { left: x, top: y, width, height };
  for (const [side, length] of Object.entries(sides)) area.style[side] = `${length * scale}px`;
  page.append(ruler("across", wide, scale, "left"), ruler("down", high, scale, "top"), area);
}

/** Frames the columns of a page. */
async function drawColumns(page) {
  const version = shown.version;
  const found = await ask(`documents/${encodeURIComponent(shown.name)}/${version}/${page.dataset.number}/columns`).catch(() => []);
  if (version !== shown.version || !isRuled()) return;
  const [wide, high] = shown.pages[page.dataset.number - 1];
  page.querySelectorAll(".column").forEach((old) => old.remove());
  for (const [, x, y, width, height] of found) {
    const column = made("div", "", "column");
    const sides = { left: x / wide, top: y / high, width: width / wide, height: height / high };
    for (const [side, share] of Object.entries(sides)) column.style[side] = `${share * 100}%`;
    page.append(column);
  }
}

/** Draws a page that comes into view; the one before stays until the new one is there. */
function draw(page) {
  if (Number(page.dataset.drawn) === shown.version) return;
  const version = shown.version;
  page.dataset.drawn = version;
  if (isRuled()) drawColumns(page);
  const picture = new Image();
  picture.alt = `Page ${page.dataset.number}`;
  picture.onload = () => {
    if (version !== shown.version) return;
    page.querySelectorAll("img").forEach((old) => old.remove());
    page.prepend(picture);
  };
  picture.onerror = () => { if (version === shown.version) page.dataset.drawn = 0; };
  picture.src = `documents/${encodeURIComponent(shown.name)}/${version}/${page.dataset.number}.svg`;
}

function layPages(pages) {
  const room = at("pages");
  while (room.children.length > pages.length) room.lastChild.remove();
  while (room.children.length < pages.length) {
    const page = made("div", "", "page");
    page.dataset.number = room.children.length + 1;
    page.append(made("span", page.dataset.number));
    room.append(page);
  }
  shown.pages = pages;
  sized();
  near?.disconnect();
  near = new IntersectionObserver(
    (entries) => entries.filter((entry) => entry.isIntersecting).forEach((entry) => draw(entry.target)),
    { root: room, rootMargin: "400px 0px" },
  );
  for (const page of room.children) near.observe(page);
}

function tellRemarks(remarks) {
  at("count").textContent = remarks.length || "";
  at("remarks").replaceChildren(...(remarks.length ? remarks : [null]).map((remark) => {
    const item = made("li");
    if (!remark) {
      item.append(made("p", "None: a careful proof-reader is content."));
      return item;
    }
    const button = made("button");
    const where = [remark.source, remark.line ? `line ${remark.line}` : "", remark.page ? `page ${remark.page}` : ""];
    button.append(made("span", `${remark.kind} `, "kind"), remark.message, made("small", where.filter(Boolean).join(", ")));
    button.onclick = () => { goTo(remark.page || 1, 0, true); leadTo(remark.source, remark.line); };
    item.append(button);
    return item;
  }));
}

function outlineOf(marks) {
  return marks.map((mark) => {
    const item = made("li");
    const button = made("button", mark.label);
    button.onclick = () => goTo(mark.page, shown.pages[mark.page - 1] ? mark.y / shown.pages[mark.page - 1][1] : 0);
    item.append(button);
    if (mark.children.length) {
      const inner = made("ol");
      inner.append(...outlineOf(mark.children));
      item.append(inner);
    }
    return item;
  });
}

const pointed = { page: 0, x: 0, y: 0, held: false, asked: 0 };
const NONE = "Nothing stands here.";

const short = (length) => `${Math.round(length * 100) / 100}`;

function lengths(sides) {
  return sides.every((side) => side === sides[0]) ? short(sides[0]) : sides.map(short).join(" ");
}

function declaration(said) {
  const item = made("li");
  const text = made("span", "", said.counts ? "" : "lost");
  text.append(made("span", said.property, "name"), `: ${said.value}${said.important ? " !important" : ""}`);
  const line = said.line ? `${said.source}, line ${said.line}` : said.source;
  const where = [said.selector || "style attribute", said.owner ? `inherited from ${said.owner}` : "", line];
  const place = made(said.line && !at("editing").hidden ? "button" : "small", where.filter(Boolean).join(" · "), "place");
  if (place.tagName === "BUTTON") place.onclick = () => leadTo(said.source, said.line);
  item.append(text, place);
  return item;
}

function tellElement(found) {
  const room = at("element").querySelector("div");
  if (!found) {
    room.replaceChildren(made("p", NONE));
    return;
  }
  const { x, y, width, height } = found.placement;
  const rows = [["at", `${short(x)}, ${short(y)} pt`], ["size", `${short(width)} × ${short(height)} pt`]];
  for (const name of ["margin", "border", "padding"]) rows.push([name, `${lengths(found[name])} pt`]);
  const list = made("dl");
  for (const [name, value] of rows) list.append(made("dt", name), made("dd", value));
  const style = made("ul");
  style.append(...found.style.filter((said) => !said.property.startsWith("-fq-cell-")).map(declaration));
  const place = found.line ? `${found.source}, line ${found.line}` : found.source;
  room.replaceChildren(made("code", found.path), made("p", place), list, style);
}

/** Draws the boxes of an element over its page: its margin, border and padding, and what is in it. */
function boxes(page, found) {
  document.querySelectorAll(".boxes").forEach((old) => old.remove());
  if (!found) return;
  const scale = page.offsetWidth / shown.pages[page.dataset.number - 1][0];
  let { x, y, width, height } = found.placement;
  const [top, right, bottom, left] = found.margin.map((side) => Math.max(side, 0));
  x -= left; y -= top; width += left + right; height += top + bottom;
  for (const name of ["margin", "border", "padding"]) {
    const sides = found[name].map((side) => Math.max(side, 0));
    const box = made("div", "", `boxes ${name}`);
    Object.assign(box.style, {
      left: `${x * scale}px`, top: `${y * scale}px`, width: `${width * scale}px`, height: `${height * scale}px`,
      borderWidth: sides.map((side) => `${side * scale}px`).join(" "),
    });
    page.append(box);
    x += sides[3]; y += sides[0]; width -= sides[1] + sides[3]; height -= sides[0] + sides[2];
  }
}

async function point(number, x, y) {
  const page = at("pages").children[number - 1];
  if (!page) return;
  const turn = ++pointed.asked;
  Object.assign(pointed, { page: number, x, y });
  const path = `documents/${encodeURIComponent(shown.name)}/${shown.version}/${number}/element?x=${x}&y=${y}`;
  const found = await ask(path);
  if (turn !== pointed.asked) return; // it has moved on since
  tellElement(found);
  boxes(page, found);
}

function pointing(on) {
  at("pointing").setAttribute("aria-pressed", on);
  at("pages").classList.toggle("points", on);
  at("element").hidden = !on;
  pointed.held = false;
  if (on) tellElement(null);
  else boxes(null, null);
}

const isPointing = () => at("pointing").getAttribute("aria-pressed") === "true";

function follow(event) {
  const page = isPointing() && event.target.closest(".page");
  if (!page) return;
  const box = page.getBoundingClientRect();
  const scale = shown.pages[page.dataset.number - 1][0] / box.width;
  point(Number(page.dataset.number), (event.clientX - box.left) * scale, (event.clientY - box.top) * scale);
}

const isComparing = () => at("comparing").getAttribute("aria-pressed") === "true";

const movedLast = (one, other) => (one.what === "moved") - (other.what === "moved");

/** Frames what the last change moved, brought or took. */
async function compared() {
  const version = shown.version;
  const told = isComparing() ? await ask(`documents/${encodeURIComponent(shown.name)}/${version}/changes`) : null;
  if (isComparing() && !told) return; // it has changed since
  document.querySelectorAll(".change").forEach((old) => old.remove());
  at("changes").hidden = !told;
  if (!told) return;
  at("changes").querySelector("h2 span").textContent = told.count || "";
  const said = told.fault || (told.count ? "" : "None: all stands where it stood.");
  at("changes").querySelector("ol").replaceChildren(...(said ? [made("p", said)] : told.changes.sort(movedLast).map((change) => {
    const item = made("li");
    const button = made("button", change.said);
    button.onclick = () => goTo(change.page, shown.pages[change.page - 1] ? Math.max(change.y - 40, 0) / shown.pages[change.page - 1][1] : 0);
    item.append(button);
    return item;
  })));
  for (const change of told.changes) {
    const page = at("pages").children[change.page - 1];
    if (!page || change.kind === "page") continue;
    const [wide, high] = shown.pages[change.page - 1];
    const box = made("div", "", `change ${change.what}`);
    Object.assign(box.style, {
      left: `${change.x / wide * 100}%`, top: `${change.y / high * 100}%`,
      width: `${change.width / wide * 100}%`, height: `${change.height / high * 100}%`,
    });
    page.append(box);
  }
}

const STEPS = { ArrowLeft: [-6, 0], ArrowRight: [6, 0], ArrowUp: [0, -6], ArrowDown: [0, 6] }; // points

function keys(event) {
  if (event.key === "Escape" && isPointing()) pointing(false);
  const step = STEPS[event.key];
  if (!step || !isPointing() || document.activeElement !== at("pages")) return;
  event.preventDefault();
  if (!pointed.page) Object.assign(pointed, { page: place().page, x: 72, y: 72 });
  const [wide, high] = shown.pages[pointed.page - 1] || [0, 0];
  pointed.held = true;
  point(pointed.page, Math.min(Math.max(pointed.x + step[0], 0), wide), Math.min(Math.max(pointed.y + step[1], 0), high));
}

async function show() {
  const name = at("documents").value;
  const other = name !== shown.name;
  const state = await ask(`documents/${encodeURIComponent(name)}`);
  if (name !== at("documents").value || (!other && state.version < shown.version)) return;
  const before = other ? { page: 1, share: 0 } : place();
  Object.assign(shown, { name, version: state.version });
  document.title = `${state.name} – proof`;
  at("fault").hidden = !state.fault;
  at("fault").textContent = state.fault;
  at("fault").onclick = () => state.place && leadTo(state.place.source, state.place.line);
  at("said").textContent = `${state.pages.length} page${state.pages.length === 1 ? "" : "s"}, made in ${state.milliseconds} ms`;
  tellRemarks(state.remarks);
  if (!shown.picking) tellPicked(state.picked);
  at("outline").replaceChildren(...outlineOf(state.outline));
  layPages(state.pages);
  goTo(before.page, before.share);
  at("pages").dataset.version = state.version;
  if (other) pointed.page = 0;
  if (isPointing() && pointed.page) point(pointed.page, pointed.x, pointed.y);
  linked();
  compared();
  tellData();
  editorSees(state);
}

/** Tries the document on other paper, in another locale, or to be filled in. */
async function pick() {
  const form = at("picked").elements;
  const picked = {
    page: form.page.value, landscape: form.landscape.checked, locale: form.locale.value.trim(), fillable: form.fillable.checked,
  };
  const path = `documents/${encodeURIComponent(shown.name)}/picked`;
  shown.picking += 1; // what comes back before knows nothing of this
  await fetch(path, { method: "POST", body: JSON.stringify(picked), headers: { "Content-Type": "application/json" } });
  shown.picking -= 1;
  await show();
}

function tellPicked(picked) {
  const form = at("picked").elements;
  form.page.value = picked.page;
  form.landscape.checked = picked.landscape;
  if (document.activeElement !== form.locale) form.locale.value = picked.locale;
  form.fillable.checked = picked.fillable;
}

/** What the document is filled in with. */
async function tellData() {
  if (!at("data").open) return;
  const answer = await fetch(`documents/${encodeURIComponent(shown.name)}/data`, { cache: "no-store" });
  at("data").querySelector("pre").textContent = await answer.text();
}

function linked() {
  at("download").href = `documents/${encodeURIComponent(at("documents").value)}/file?kind=${at("kinds").value}`;
}

async function begin() {
  const { documents, kinds, nonce } = await ask("documents");
  at("documents").replaceChildren(...documents.map((name) => made("option", name)));
  at("kinds").replaceChildren(...kinds.map((kind) => made("option", kind)));
  const wanted = decodeURIComponent(location.hash.slice(1));
  if (documents.includes(wanted)) at("documents").value = wanted;
  at("documents").onchange = () => { location.hash = encodeURIComponent(at("documents").value); show(); };
  at("kinds").onchange = linked;
  at("zoom").onchange = () => { const before = place(); sized(); goTo(before.page, before.share); };
  addEventListener("resize", () => { const before = place(); sized(); goTo(before.page, before.share); });
  at("ruling").onclick = () => { at("ruling").setAttribute("aria-pressed", !isRuled()); sized(); };
  at("comparing").onclick = () => { at("comparing").setAttribute("aria-pressed", !isComparing()); compared(); };
  at("data").ontoggle = tellData;
  at("picked").onchange = pick;
  at("picked").onsubmit = (event) => { event.preventDefault(); };
  at("pointing").onclick = () => pointing(!isPointing());
  at("pages").onpointermove = (event) => { if (!pointed.held) follow(event); };
  at("pages").onclick = (event) => { pointed.held = isPointing() && !pointed.held; follow(event); };
  addEventListener("keydown", keys);
  if (nonce) beginEditing(nonce);
  await show();
  const events = new EventSource("events");
  events.onmessage = (event) => {
    const version = JSON.parse(event.data)[shown.name];
    if (version && version !== shown.version) show();
  };
}

begin();
