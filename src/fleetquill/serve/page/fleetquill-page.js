// The page that a reader sees, or a part of it, as a file.
//
//   import { press } from "https://documents.example/fleetquill-page.js";
//   button.onclick = () => press("#tolls", { name: "tolls", page: "A4", button });
//
// The element goes as it stands: what scripts have made of it, with what is filled in, its canvases, the rules of
// style that count for it, its pictures and fonts. What may not be read is named in what `press` gives.

const SERVICE = new URL(".", import.meta.url);
const FORGET = 60_000; // ms for which a tab may take its time to load a file
const ASK_AGAIN = 500; // ms between two questions how far a job is
const LEFT_OUT = "script, noscript, template, link, base, [data-leave-out]";
const STATES = /::?(-[\w-]+|before|after|marker|first-(line|letter)|placeholder|selection|backdrop|hover|focus[\w-]*|active|visited|link|target|slotted\([^)]*\))/g;
const ADDRESS = /url\(\s*(?:"((?:[^"\\]|\\.)*)"|'((?:[^'\\]|\\.)*)'|([^)\s]*))\s*\)/g;
const INHERITED = ["color", "direction", "font-family", "font-size", "font-style", "font-weight", "letter-spacing", "line-height",
  "list-style-type", "text-align", "text-indent", "text-transform", "visibility", "white-space", "word-spacing"];
const BLANK = /(?<=[{;]\s*)([\w-]+):\s*;/g;
const OF_THE_WINDOW = /(-?\d*\.?\d+)([dsl]?v(?:w|h|min|max|i|b))\b/g;

/**
 * Makes a file of an element and hands it over.
 *
 * `element` is one, or its selector. Options: `name` of the file; `kind` ("pdf", "docx", "html", …); `page` ("A4",
 * "80mm 50mm"); `margin`; `landscape`; `scale`, a number, or "fit": as wide as the paper, never larger; `into`:
 * "download", "tab", or "nothing" but what is given back; `button`, which is busy meanwhile, its `data-state` and the
 * function `told` saying "reading", "making", "done" or "failed"; `title`, `locale`; `leaveOut`, a selector; `job` for
 * what takes long; `signal` to end it; `service` and `token`, where they are not those of this module's own host.
 *
 * Gives { blob, name, pages, remarks, run, missing }: `missing` names what may not be read, and why. What the service
 * says is wrong is thrown, as an Error with its `problem`.
 */
export async function press(element, options = {}) {
  const found = typeof element === "string" ? document.querySelector(element) : element;
  if (!(found instanceof Element)) throw new Error(`There is no element '${element}' on this page.`);
  const tab = options.into === "tab" ? window.open("", "_blank") : null; // later it would not be let
  const state = said(options);
  try {
    state("reading");
    const page = await read(found, options);
    state("making");
    const file = await made(page, options);
    handOver(file, options.into ?? "download", tab);
    state("done");
    return { ...file, missing: page.missing };
  } catch (error) {
    tab?.close();
    state("failed");
    throw error;
  }
}

/** The element as a document of its own, with the files that it shows: { html, files, width, missing }. */
export async function read(element, options = {}) {
  const page = new Copy(element, options);
  await page.fill();
  return { html: page.text(), files: page.files, width: page.width, missing: page.missing };
}

function said({ button, told }) {
  return (state) => {
    const busy = state === "reading" || state === "making";
    if (button) {
      button.disabled = busy;
      button.setAttribute("aria-busy", String(busy));
      button.dataset.state = state;
    }
    told?.(state);
  };
}

// ---- the element as it stands ----

class Copy {
  constructor(element, { leaveOut = "", title = document.title }) {
    this.missing = [];
    this.title = title;
    this.element = element;
    this.leaveOut = leaveOut ? `${LEFT_OUT}, ${leaveOut}` : LEFT_OUT;
    this.sheets = [];
    this.waits = []; // for pictures and fonts
    this.read = new Map(); // the names of files, by their addresses
    this.files = new Map(); // their content, by their names
    this.copies = new Map();
    this.hosts = 0;
    this.width = widest(element);
    this.root = this.copy(element);
  }

  async fill() {
    const around = [];
    for (let one = this.element.parentElement; one; one = one.parentElement) around.push(one);
    this.around = around;
    const rules = [...this.rulesOf(document, [this.element, ...around], ""), ...this.sheets.flat()];
    this.style = await this.filledIn(rules.join("\n"), document.baseURI);
    await Promise.all(this.waits);
  }

  text() {
    const ground = groundOf(this.element);
    const own = [
      "html, body:not([data-pressed]) { margin: 0 !important; padding: 0 !important; border: 0 !important; background: none !important;",
      " width: auto !important; min-width: 0 !important; max-width: none !important; height: auto !important;",
      " min-height: 0 !important; display: block !important; overflow: visible !important; columns: auto !important;",
      " position: static !important; transform: none !important }",
      "[data-around] { display: contents !important }",
      `[data-pressed] { margin: 0 !important; float: none !important; inset: auto !important; width: ${this.width}px`,
      " !important; min-width: 0 !important; max-width: none !important; box-sizing: border-box !important;",
      ` position: relative !important; transform: none !important${ground} }`,
    ].join("");
    let inner = this.root.outerHTML + this.symbols();
    const [html, body, ...between] = this.around.toReversed();
    for (const one of between.toReversed()) inner = wrapped(one, inner, "data-around");
    const head = `<meta charset="utf-8"><title>${escaped(this.title || "Page")}</title><style>${this.style}</style>`;
    const whole = body ? wrapped(body, inner) : inner;
    const language = html && !html.lang ? ' lang="en"' : "";
    const opened = html ? opening(html, language) : "<html>";
    return `<!doctype html>${opened}<head>${head}<style>${own}</style></head>${whole}</html>`;
  }

  /** A copy of an element, with the state that no attribute has. */
  copy(source) {
    if (source.matches(this.leaveOut)) return document.createComment("");
    const copied = this.drawn(source) ?? source.cloneNode(false);
    this.copies.set(source, copied);
    this.keepState(source, copied);
    if (source === this.element) this.keepInherited(source, copied);
    if (copied.tagName !== source.tagName) return copied;
    if (source.shadowRoot) this.openShadow(source, copied);
    const inside = source.shadowRoot ?? source;
    for (const child of inside.childNodes) this.copyInto(copied, child);
    if (source.tagName === "TEXTAREA") copied.textContent = source.value;
    return copied;
  }

  copyInto(parent, child) {
    if (child.nodeType === Node.TEXT_NODE) parent.append(child.data);
    if (child.nodeType !== Node.ELEMENT_NODE) return;
    if (child.tagName === "STYLE" && child.getRootNode() instanceof Document) return; // its rules are read
    if (child.tagName === "STYLE" && child.getRootNode() instanceof ShadowRoot) return;
    const given = child.tagName === "SLOT" ? child.assignedNodes() : [];
    if (given.length) for (const one of given) this.copyInto(parent, one);
    else parent.append(this.copy(child));
  }

  /** What a canvas, a frame of a film or a frame shows, as a picture. */
  drawn(source) {
    if (source instanceof HTMLCanvasElement || source instanceof HTMLVideoElement) {
      try {
        return pictureOf(source, source instanceof HTMLCanvasElement ? source : frameOf(source));
      } catch (error) {
        this.miss(source, source.currentSrc ?? "", "it shows what is of another origin");
        return placeholderOf(source);
      }
    }
    if (/^(IFRAME|OBJECT|EMBED|AUDIO)$/.test(source.tagName)) {
      this.miss(source, source.src || source.data || "", "a page within the page is not read");
      return placeholderOf(source);
    }
    return null;
  }

  /** What the element inherits from all that is not sent. */
  keepInherited(source, copied) {
    const style = getComputedStyle(source);
    copied.setAttribute("data-pressed", "");
    for (const name of INHERITED) copied.style.setProperty(name, style.getPropertyValue(name));
  }

  keepState(source, copied) {
    for (const name of copied.getAttributeNames()) if (name.startsWith("on")) copied.removeAttribute(name);
    if (source instanceof HTMLInputElement) {
      if (source.type === "password") copied.setAttribute("value", "•".repeat(source.value.length));
      else if (source.type !== "file") copied.setAttribute("value", source.value);
      copied.toggleAttribute("checked", source.checked);
    }
    if (source instanceof HTMLOptionElement) copied.toggleAttribute("selected", source.selected);
    if (source instanceof HTMLDetailsElement) copied.toggleAttribute("open", source.open);
    if (source instanceof HTMLProgressElement || source instanceof HTMLMeterElement) copied.setAttribute("value", source.value);
    if (source instanceof HTMLImageElement) this.keepPicture(source, copied);
    if (source instanceof SVGImageElement) this.keepAddress(copied, "href", source.href.baseVal, source);
    const scrolls = source.scrollHeight > source.clientHeight + 1 || source.scrollWidth > source.clientWidth + 1;
    if (scrolls && /auto|scroll/.test(getComputedStyle(source).overflow)) {
      copied.style.cssText += ";overflow:visible!important;height:auto!important;max-height:none!important";
    }
    const moving = source.getAnimations?.() ?? [];
    for (const name of new Set(moving.flatMap(propertiesOf))) copied.style[name] = getComputedStyle(source)[name];
    copied.style.animation = copied.style.transition = "";
    if (copied.getAttribute("style") === "") copied.removeAttribute("style");
    if (copied.getAttribute("style")?.includes("url(")) {
      this.waits.push(this.filledIn(copied.getAttribute("style"), document.baseURI, source).then((style) => copied.setAttribute("style", style)));
    }
  }

  keepPicture(source, copied) {
    const { width, height } = getComputedStyle(source);
    for (const name of ["srcset", "sizes", "loading"]) copied.removeAttribute(name);
    if (source.currentSrc) this.keepAddress(copied, "src", source.currentSrc, source);
    if (!copied.hasAttribute("width") && width.endsWith("px")) copied.setAttribute("width", parseFloat(width));
    if (!copied.hasAttribute("height") && height.endsWith("px")) copied.setAttribute("height", parseFloat(height));
  }

  keepAddress(copied, name, address, source) {
    copied.setAttribute(name, new URL(address, document.baseURI).href);
    this.waits.push(this.nameOf(new URL(address, document.baseURI).href, source).then((found) => found && copied.setAttribute(name, found)));
  }

  /** Content of a shadow tree stands in its host; its rules hold for that alone. */
  openShadow(source, copied) {
    const mark = `[data-host="${++this.hosts}"]`;
    copied.setAttribute("data-host", this.hosts);
    this.sheets.push(this.rulesOf(source.shadowRoot, [source.shadowRoot, source], mark));
  }

  /** Symbols and gradients that drawings use, and that stand elsewhere in the document. */
  symbols() {
    const wanted = new Set();
    for (const [, name] of this.root.outerHTML.matchAll(/(?:href="#|url\((?:&quot;)?#)([^")&]+)/g)) {
      const found = document.getElementById(name);
      if (found && !this.element.contains(found) && found instanceof SVGElement) wanted.add(found);
    }
    const inner = [...wanted].map((one) => one.outerHTML).join("");
    return inner && `<svg width="0" height="0" style="position:absolute" aria-hidden="true">${inner}</svg>`;
  }

  // ---- the rules that count ----

  rulesOf(root, scopes, mark) {
    const found = [];
    for (const sheet of [...root.styleSheets, ...(root.adoptedStyleSheets ?? [])]) {
      if (!sheet.disabled && (!sheet.media?.length || matchMedia(sheet.media.mediaText).matches)) this.rulesOfSheet(sheet, scopes, mark, found);
    }
    return found;
  }

  rulesOfSheet(sheet, scopes, mark, found) {
    let rules;
    try {
      rules = sheet.cssRules;
    } catch {
      this.miss(null, sheet.href, "a style sheet of another origin may not be read");
      return;
    }
    this.addRules(rules, sheet.href ?? document.baseURI, scopes, mark, found);
  }

  addRules(rules, base, scopes, mark, found) {
    for (const rule of rules) {
      if (rule instanceof CSSImportRule) {
        if (rule.styleSheet && (!rule.media.length || matchMedia(rule.media.mediaText).matches)) this.rulesOfSheet(rule.styleSheet, scopes, mark, found);
      } else if (rule instanceof CSSMediaRule) {
        if (matchMedia(rule.conditionText).matches) this.addRules(rule.cssRules, base, scopes, mark, found);
      } else if (rule instanceof CSSSupportsRule) {
        if (CSS.supports(rule.conditionText)) this.addRules(rule.cssRules, base, scopes, mark, found);
      } else if (rule instanceof CSSLayerBlockRule) {
        const inner = [];
        this.addRules(rule.cssRules, base, scopes, mark, inner);
        found.push(`@layer ${rule.name} {\n${inner.join("\n")}\n}`);
      } else if (rule instanceof CSSStyleRule) {
        if (counts(rule.selectorText, scopes)) found.push(this.styled(rule, base, mark));
      } else if (rule instanceof CSSFontFaceRule) {
        if (this.showsFont(rule)) found.push(absolute(rule.cssText, base));
      } else if (!(rule instanceof CSSKeyframesRule || rule instanceof CSSPageRule)) {
        found.push(rule.cssText);
      }
    }
  }

  styled(rule, base, mark) {
    let text = this.withBlanks(rule);
    if (mark) text = marked(rule.selectorText, mark) + text.slice(rule.selectorText.length);
    return absolute(text, base).replace(OF_THE_WINDOW, inPx);
  }

  /** The text of a rule. Where a shorthand has var() in it, browsers leave the values of some longhands blank: those
   * are put on the elements, as they are computed. */
  withBlanks(rule) {
    const blanks = [...rule.cssText.matchAll(BLANK)].map(([, name]) => name);
    if (!blanks.length) return rule.cssText;
    const selector = rule.selectorText.replace(STATES, ":is(*)");
    for (const [source, copied] of this.copies) {
      if (!matches(source, selector)) continue;
      const style = getComputedStyle(source);
      for (const name of blanks) copied.style.setProperty(name, style.getPropertyValue(name));
    }
    return rule.cssText.replace(BLANK, "");
  }

  showsFont(rule) {
    const family = rule.style.getPropertyValue("font-family").replace(/["']/g, "").toLowerCase();
    const range = rule.style.getPropertyValue("unicode-range");
    this.families ??= familiesOf(this.element);
    this.letters ??= [...new Set(this.element.textContent)].map((one) => one.codePointAt(0));
    return this.families.has(family) && (!range || this.letters.some(within(range)));
  }

  // ---- what is at an address ----

  async filledIn(style, base, source = null) {
    const addresses = new Set([...style.matchAll(ADDRESS)].map((found) => found[1] ?? found[2] ?? found[3]));
    const names = new Map();
    await Promise.all([...addresses].map(async (one) => {
      if (one && !/^(#|data:)/.test(one)) names.set(one, await this.nameOf(new URL(one, base).href, source));
    }));
    return style.replace(ADDRESS, (whole, ...found) => {
      const read = names.get(found[0] ?? found[1] ?? found[2]);
      return read ? `url("${read}")` : whole;
    });
  }

  /** The name of what is at an address among the files; nothing where that may not be read, which is told. */
  nameOf(address, source) {
    if (address.startsWith("data:")) return Promise.resolve(address);
    if (!this.read.has(address)) this.read.set(address, this.fetched(address).catch((error) => this.miss(source, address, error.message)));
    return this.read.get(address);
  }

  async fetched(address) {
    let answer;
    try {
      answer = await fetch(address, { credentials: "same-origin" });
    } catch {
      throw new Error("it may not be read, or is not there");
    }
    if (!answer.ok) throw new Error(`the answer is ${answer.status}`);
    const name = `${this.files.size + 1}${/\.\w{2,5}$/.exec(new URL(address).pathname)?.[0] ?? ""}`;
    this.files.set(name, null); // its place
    this.files.set(name, await answer.blob());
    return name;
  }

  miss(element, address, why) {
    this.missing.push({ element, address, why });
    console.warn(`fleetquill-page: ${address || element?.tagName.toLowerCase()} is not in the file: ${why}.`);
    return "";
  }
}

/** How wide an element is, with what can be scrolled to in it. */
function widest(element) {
  let width = element.getBoundingClientRect().width;
  for (const one of [element, ...element.querySelectorAll("*")]) {
    if (one.scrollWidth > one.clientWidth + 1 && /auto|scroll/.test(getComputedStyle(one).overflowX)) {
      width = Math.max(width, element.getBoundingClientRect().width + one.scrollWidth - one.clientWidth);
    }
  }
  return Math.ceil(width * 100) / 100;
}

/** The colour behind an element that has none of its own. */
function groundOf(element) {
  for (let one = element; one; one = one.parentElement) {
    const { backgroundColor, backgroundImage } = getComputedStyle(one);
    if (!/^(transparent|rgba\(.*, 0\))$/.test(backgroundColor)) return one === element ? "" : `; background-color: ${backgroundColor}`;
    if (one === element && backgroundImage !== "none") return "";
  }
  return "";
}

function counts(selector, scopes) {
  const plain = selector.replace(STATES, ":is(*)");
  try {
    return /:host|&/.test(selector) || scopes.some((one) => one.matches?.(plain)) || scopes[0].querySelector(plain) !== null;
  } catch {
    return true;
  }
}

function matches(element, selector) {
  try {
    return element.matches(selector);
  } catch {
    return false; // it means nothing here
  }
}

/** The selectors of a shadow tree, for its content as it stands in the host. */
function marked(selectors, mark) {
  const parts = selectors.split(/,(?![^(]*\))/);
  return parts.map((one) => {
    const own = one.trim().replace(/::slotted\(([^)]*)\)/g, "$1");
    if (own.startsWith(":host")) return own.replace(/^:host(?:\(([^)]*)\))?/, (_, more) => mark + (more ?? ""));
    return `${mark} ${own}`;
  }).join(", ");
}

function absolute(text, base) {
  return text.replace(ADDRESS, (whole, ...found) => {
    const address = found[0] ?? found[1] ?? found[2];
    return !address || /^(#|data:)/.test(address) ? whole : `url("${new URL(address, base).href}")`;
  });
}

function inPx(_, number, unit) {
  const { innerWidth: wide, innerHeight: high } = window;
  const side = unit.replace(/^[dsl]/, "");
  const whole = { vw: wide, vi: wide, vh: high, vb: high, vmin: Math.min(wide, high), vmax: Math.max(wide, high) }[side];
  return `${(number * whole) / 100}px`;
}

function familiesOf(element) {
  const found = new Set();
  for (const one of [element, ...element.querySelectorAll("*")]) {
    for (const pseudo of [null, "::before", "::after"]) {
      for (const name of getComputedStyle(one, pseudo).fontFamily.split(",")) found.add(name.trim().replace(/["']/g, "").toLowerCase());
    }
  }
  return found;
}

/** Whether a letter is in a `unicode-range` (CSS Fonts 4 §4.5). */
function within(range) {
  const spans = [...range.matchAll(/u\+([\da-f?]+)(?:-([\da-f]+))?/gi)].map(([, first, last]) =>
    [first.replace(/\?/g, "0"), last ?? first.replace(/\?/g, "f")].map((one) => parseInt(one, 16)));
  return (letter) => spans.some(([first, last]) => first <= letter && letter <= last);
}

const propertiesOf = (animation) => animation.effect?.getKeyframes?.().flatMap((frame) => Object.keys(frame))
  .filter((name) => !["offset", "computedOffset", "easing", "composite"].includes(name)) ?? [];

function pictureOf(source, canvas) {
  const picture = document.createElement("img");
  for (const { name, value } of source.attributes) if (/^(id|class|style|title|role|aria-.*)$/.test(name)) picture.setAttribute(name, value);
  picture.alt = source.getAttribute("aria-label") ?? source.title ?? "";
  picture.src = canvas.toDataURL("image/png");
  return sized(picture, source);
}

function frameOf(film) {
  const canvas = document.createElement("canvas");
  [canvas.width, canvas.height] = [film.videoWidth || 1, film.videoHeight || 1];
  canvas.getContext("2d").drawImage(film, 0, 0);
  return canvas;
}

function placeholderOf(source) {
  const box = document.createElement("span");
  box.textContent = source.title || source.getAttribute("aria-label") || source.tagName.toLowerCase();
  box.style.cssText = "display:inline-block;overflow:hidden;box-sizing:border-box;border:1px dashed gray;color:gray;font-size:12px";
  return sized(box, source);
}

function sized(copied, source) {
  const style = getComputedStyle(source);
  const across = ["paddingLeft", "paddingRight", "borderLeftWidth", "borderRightWidth"].reduce((sum, name) => sum + parseFloat(style[name]), 0);
  const down = ["paddingTop", "paddingBottom", "borderTopWidth", "borderBottomWidth"].reduce((sum, name) => sum + parseFloat(style[name]), 0);
  const own = style.boxSizing === "border-box";
  copied.style.width = `${source.offsetWidth - (own ? 0 : across)}px`;
  copied.style.height = `${source.offsetHeight - (own ? 0 : down)}px`;
  return copied;
}

const escaped = (text) => text.replace(/[&<>"]/g, (one) => ({ "&": "&amp;", "<": "&lt;", ">": "&gt;", '"': "&quot;" })[one]);

function opening(element, more = "") {
  const attributes = [...element.attributes].filter(({ name }) => !name.startsWith("on"));
  return `<${element.localName}${attributes.map(({ name, value }) => ` ${name}="${escaped(value)}"`).join("")}${more}>`;
}

const wrapped = (element, inner, mark = "") => `${opening(element, mark && ` ${mark}`)}${inner}</${element.localName}>`;

// ---- the file ----

async function made(page, options) {
  const { service = SERVICE, kind = "pdf", name, margin, locale, landscape, scale = "fit", job, signal } = options;
  const query = new URLSearchParams({ kind, page: options.page ?? "A4" });
  for (const [key, value] of Object.entries({ name: name && plain(name), margin, locale })) if (value) query.set(key, value);
  if (landscape) query.set("landscape", "");
  if (scale === "fit") query.set("fit", page.width);
  else query.set("scale", scale);
  const form = new FormData();
  form.append("source", new Blob([page.html], { type: "text/html" }), "page.html");
  for (const [part, content] of page.files) form.append(part, content, part);
  const asked = { method: "POST", body: form, signal, headers: {} };
  if (job) asked.headers.Prefer = "respond-async";
  let answer = await ask(new URL(`documents?${query}`, service), asked, options);
  if (answer.status === 202) answer = await fileOf(await answer.json(), service, options);
  const number = (header) => Number(answer.headers.get(header) ?? 0);
  const blob = await answer.blob();
  return { blob, name: nameIn(answer, `page.${kind}`), pages: number("Page-Count"), remarks: number("Remark-Count"), run: answer.headers.get("Run-Id") };
}

async function fileOf(job, service, options) {
  let { state } = job;
  while (state === "waiting" || state === "making") {
    await new Promise((resolve) => setTimeout(resolve, ASK_AGAIN));
    ({ state } = await (await ask(new URL(`jobs/${job.job}`, service), { signal: options.signal }, options)).json());
  }
  return ask(new URL(`jobs/${job.job}/file`, service), { signal: options.signal }, options);
}

async function ask(address, asked, { token, service }) {
  const headers = { ...asked.headers, ...(token && { Authorization: `Bearer ${token}` }) };
  const credentials = service && new URL(service).origin !== location.origin ? "omit" : "same-origin";
  const answer = await fetch(address, { credentials, cache: "no-store", ...asked, headers });
  if (answer.ok) return answer;
  const problem = await answer.json().catch(() => ({}));
  throw Object.assign(new Error(problem.detail ?? `The service answers with ${answer.status}.`), { problem });
}

/** A name as a pattern that names nothing of the data. */
const plain = (name) => name.replace(/[{}]/g, (one) => one + one).replace(/[:!]/g, "-");

function nameIn(answer, otherwise) {
  const said = answer.headers.get("Content-Disposition") ?? "";
  const encoded = /filename\*=UTF-8''([^;]+)/.exec(said);
  return encoded ? decodeURIComponent(encoded[1]) : (/filename="([^"]*)"/.exec(said)?.[1] ?? otherwise);
}

function handOver({ blob, name }, into, tab) {
  if (into === "nothing") return;
  const address = URL.createObjectURL(blob);
  if (tab) {
    tab.location.replace(address);
  } else {
    const link = Object.assign(document.createElement("a"), { href: address, download: name });
    document.body.append(link);
    link.click();
    link.remove();
  }
  setTimeout(() => URL.revokeObjectURL(address), FORGET);
}
