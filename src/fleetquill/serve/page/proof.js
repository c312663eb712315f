"use strict";

const PX_PER_POINT = 96 / 72;
const at = (id) => document.getElementById(id);
const shown = { name: "", version: 0, pages: [] };
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
  }
}

/** Draws a page that comes into view; the one before stays until the new one is there. */
function draw(page) {
  if (Number(page.dataset.drawn) === shown.version) return;
  const version = shown.version;
  page.dataset.drawn = version;
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
    button.onclick = () => goTo(remark.page || 1, 0, true);
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

async function show() {
  const name = at("documents").value;
  const other = name !== shown.name;
  const state = await ask(`documents/${encodeURIComponent(name)}`);
  if (name !== at("documents").value) return;
  const before = other ? { page: 1, share: 0 } : place();
  Object.assign(shown, { name, version: state.version });
  document.title = `${state.name} – proof`;
  at("fault").hidden = !state.fault;
  at("fault").textContent = state.fault;
  at("said").textContent = `${state.pages.length} page${state.pages.length === 1 ? "" : "s"}, made in ${state.milliseconds} ms`;
  tellRemarks(state.remarks);
  at("outline").replaceChildren(...outlineOf(state.outline));
  layPages(state.pages);
  goTo(before.page, before.share);
  at("pages").dataset.version = state.version;
  linked();
}

function linked() {
  at("download").href = `documents/${encodeURIComponent(at("documents").value)}/file?kind=${at("kinds").value}`;
}

async function begin() {
  const { documents, kinds } = await ask("documents");
  at("documents").replaceChildren(...documents.map((name) => made("option", name)));
  at("kinds").replaceChildren(...kinds.map((kind) => made("option", kind)));
  const wanted = decodeURIComponent(location.hash.slice(1));
  if (documents.includes(wanted)) at("documents").value = wanted;
  at("documents").onchange = () => { location.hash = encodeURIComponent(at("documents").value); show(); };
  at("kinds").onchange = linked;
  at("zoom").onchange = () => { const before = place(); sized(); goTo(before.page, before.share); };
  addEventListener("resize", () => { const before = place(); sized(); goTo(before.page, before.share); });
  await show();
  const events = new EventSource("events");
  events.onmessage = (event) => {
    const version = JSON.parse(event.data)[shown.name];
    if (version && version !== shown.version) show();
  };
}

begin();
