"use strict";

const at = (id) => document.getElementById(id);
const SHOWN = ["application/pdf", "text/html", "text/plain", "text/csv", "text/markdown"];
let data = null; // the field of all that is filled in
let address = ""; // of the file that is shown

function made(tag, text = "", kind = "") {
  const element = document.createElement(tag);
  element.textContent = text;
  if (kind) element.className = kind;
  return element;
}

function fault(text) {
  at("fault").hidden = !text;
  at("fault").textContent = text;
}

async function ask(path, options = {}) {
  const headers = { ...options.headers };
  if (at("token").value) headers.Authorization = `Bearer ${at("token").value}`;
  const answer = await fetch(path, { cache: "no-store", ...options, headers });
  if (answer.ok) return answer;
  if (answer.status === 401) at("tokens").hidden = false;
  const problem = await answer.json().catch(() => ({ detail: `${answer.status} ${answer.statusText}` }));
  const place = [problem.source, problem.line ? `line ${problem.line}` : ""].filter(Boolean).join(", ");
  throw new Error(place ? `${place}: ${problem.detail}` : problem.detail);
}

// ---- a form of a schema: each field has its element, and reads what is filled in ----

const kindOf = (schema, value) => [schema.type].flat()[0]
  ?? (Array.isArray(value) ? "array" : value === null ? "null" : value === undefined ? "any" : typeof value);

function labelled(name, element) {
  const label = made("label", "", element.type === "checkbox" ? "tick" : "");
  label.append(made("span", name), element);
  return label;
}

function input(type, value, read) {
  const element = made("input");
  element.type = type;
  if (type === "number") element.step = "any";
  if (type === "checkbox") element.checked = Boolean(value);
  else element.value = value ?? "";
  return { element, read: () => read(element), plain: true };
}

function choice(schema, value) {
  const element = made("select");
  element.append(...schema.enum.map((one) => made("option", one)));
  if (value !== undefined) element.value = value;
  return { element, read: () => schema.enum[element.selectedIndex], plain: true };
}

function text(schema, value) {
  if (!String(value ?? "").includes("\n")) return input("text", value, (element) => element.value);
  const element = made("textarea", value);
  return { element, read: () => element.value, plain: true };
}

function anything(schema, value) {
  const element = made("textarea", value === undefined ? "" : JSON.stringify(value, null, 1));
  return { element, read: () => (element.value.trim() ? JSON.parse(element.value) : undefined), plain: true };
}

function object(schema, value, name) {
  const element = made("fieldset");
  if (name) element.append(made("legend", name));
  const fields = {};
  for (const key of new Set([...Object.keys(schema.properties ?? {}), ...Object.keys(value ?? {})])) {
    fields[key] = field(schema.properties?.[key] ?? {}, value?.[key], key);
    element.append(fields[key].plain ? labelled(key, fields[key].element) : fields[key].element);
  }
  const read = () => Object.fromEntries(
    Object.entries(fields).map(([key, own]) => [key, own.read()]).filter(([, own]) => own !== undefined),
  );
  return { element, read };
}

function list(schema, value, name) {
  const element = made("fieldset");
  const rows = [];
  const more = made("button", "One more");
  const add = (own) => {
    const inner = field(schema.items ?? {}, own, "");
    const row = made("div");
    const less = made("button", "Take out");
    less.type = "button";
    less.onclick = () => { rows.splice(rows.indexOf(inner), 1); row.remove(); };
    row.append(inner.element, less);
    rows.push(inner);
    more.before(row);
  };
  more.type = "button";
  more.onclick = () => add(undefined);
  element.append(made("legend", name || "list"), more);
  for (const own of value ?? []) add(own);
  return { element, read: () => rows.map((row) => row.read()) };
}

function field(schema, value, name) {
  if (schema.enum) return choice(schema, value);
  switch (kindOf(schema, value)) {
    case "object": return object(schema, value, name);
    case "array": return list(schema, value, name);
    case "boolean": return input("checkbox", value, (element) => element.checked);
    case "number": case "integer": return input("number", value, (element) => (element.value === "" ? undefined : Number(element.value)));
    case "string": return text(schema, value);
    default: return anything(schema, value);
  }
}

// ---- what there is, and making it ----

async function describe() {
  fault("");
  try {
    const told = await (await ask(`documents/${encodeURIComponent(at("documents").value)}`)).json();
    const isTemplate = told.kind === "template";
    const sample = isTemplate || Object.keys(told.sample).length ? told.sample : undefined;
    data = told.takes_data ? (isTemplate ? object(told.schema, sample) : anything({}, sample)) : null;
    const what = isTemplate ? "Its data" : told.takes_data ? "Its 'data' and 'parameters' as JSON, or nothing" : "It takes no data.";
    at("data").replaceChildren(made("p", what), ...(data ? [data.element] : []));
  } catch (error) {
    fault(error.message);
  }
}

async function begin() {
  fault("");
  try {
    const { documents, kinds } = await (await ask("documents")).json();
    at("documents").replaceChildren(...documents.map((one) => made("option", one.name)));
    at("kinds").replaceChildren(...kinds.map((kind) => made("option", kind)));
    await describe();
  } catch (error) {
    fault(error.message);
  }
}

async function make() {
  fault("");
  at("make").disabled = true;
  try {
    const query = new URLSearchParams({ kind: at("kinds").value });
    if (at("locale").value.trim()) query.set("locale", at("locale").value.trim());
    const name = at("documents").value;
    const body = data ? JSON.stringify(data.read()) : "";
    const options = { method: "POST", body, headers: body ? { "Content-Type": "application/json" } : {} };
    const answer = await ask(`documents/${encodeURIComponent(name)}?${query}`, options);
    await show(answer, await answer.blob(), `${name}.${at("kinds").value}`);
  } catch (error) {
    fault(error.message);
  } finally {
    at("make").disabled = false;
  }
}

async function show(answer, file, name) {
  const said = (header) => answer.headers.get(header) ?? "";
  const pages = Number(said("page-count"));
  const parts = [
    pages ? `${pages} page${pages === 1 ? "" : "s"}` : "", `${file.size.toLocaleString("en")} bytes`,
    `${Math.round(parseFloat(said("server-timing").split("dur=")[1]))} ms`,
  ];
  URL.revokeObjectURL(address);
  address = URL.createObjectURL(file);
  const link = made("a", `Save ${name}`);
  link.href = address;
  link.download = name;
  at("said").replaceChildren(`${parts.filter(Boolean).join(", ")}. `, link);
  at("shown").hidden = !SHOWN.includes(file.type.split(";")[0]);
  at("shown").toggleAttribute("sandbox", file.type.startsWith("text/html")); // readers of PDF need more
  at("shown").src = at("shown").hidden ? "about:blank" : address;
  const remarks = Number(said("remark-count")) ? (await (await ask(`runs/${said("run-id")}`)).json()).remarks : [];
  at("remarks").replaceChildren(...remarks.map((remark) => made("li", remark.message)));
}

at("documents").onchange = describe;
at("token").onchange = begin;
at("make").onclick = make;
at("data").onsubmit = (event) => { event.preventDefault(); make(); };
begin();
