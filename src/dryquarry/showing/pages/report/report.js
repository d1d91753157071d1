// What a report can do beyond being read: sort and filter tables, keep that in the address, go from failure to failure,
// copy a question, search. Nothing here makes HTML of a text, and nothing asks any network.
"use strict";

const all = (selector, within = document) => [...within.querySelectorAll(selector)];

// The address holds the state after "#": an anchor, "?", and what each filter and table is set to.
function state() {
  const [anchor, settings = ""] = decodeURI(location.hash.slice(1)).split("?");
  return { anchor, settings: new URLSearchParams(settings) };
}

function keep(changes) {
  const { anchor, settings } = state();
  for (const [name, value] of Object.entries(changes)) {
    if (value) settings.set(name, value);
    else settings.delete(name);
  }
  const said = settings.toString();
  history.replaceState(null, "", anchor || said ? `#${encodeURI(anchor)}${said ? `?${said}` : ""}` : location.href.split("#")[0]);
}

// Sorting: a heading is a button; first falling where the column holds figures.
function order(cell) {
  if (cell.dataset.order !== undefined) return Number(cell.dataset.order);
  const text = cell.textContent.trim();
  if (!cell.classList.contains("right")) return text;
  const found = /[−+-]?\d[\d\u202f]*(\.\d+)?/.exec(text);
  return found ? Number(found[0].replaceAll("\u202f", "").replace("−", "-")) : null;
}

const collator = new Intl.Collator(undefined, { numeric: true });

function sort(table, place, falling) {
  const body = table.tBodies[0];
  const keyed = [...body.rows].map((row) => [order(row.cells[place]), row]);
  keyed.sort(([one], [other]) => {
    if (one === null || other === null) return (one === null) - (other === null);
    const way = typeof one === "number" ? one - other : collator.compare(one, other);
    return falling ? -way : way;
  });
  // into a new body: moving rows within one would cost a large table dearly
  const sorted = body.cloneNode(false);
  sorted.append(...keyed.map(([, row]) => row));
  body.replaceWith(sorted);
  [...table.tHead.rows[0].cells].forEach((head, number) => {
    if (number === place) head.setAttribute("aria-sort", falling ? "descending" : "ascending");
    else head.removeAttribute("aria-sort");
  });
  table.classList.add("sorted");
}

function sortable(table) {
  const heads = [...table.tHead.rows[0].cells];
  heads.forEach((head, place) => {
    const button = document.createElement("button");
    button.type = "button";
    const link = head.querySelector("a");
    if (link) {
      button.setAttribute("aria-label", `sort by ${head.textContent.trim()}`);
      head.append(button);
    } else {
      button.append(...head.childNodes);
      head.append(button);
    }
    button.addEventListener("click", () => {
      const now = head.getAttribute("aria-sort");
      const falling = now ? now === "ascending" : head.classList.contains("right") || head.classList.contains("name");
      sort(table, place, falling);
      keep({ [`sort.${table.dataset.table}`]: `${falling ? "-" : ""}${place}` });
    });
  });
}

// Filtering: every row has what it is filtered by; codes have one letter an entrant.
const tests = {
  category: (row, wanted) => row.dataset.category === wanted,
  tag: (row, wanted) => row.dataset.tags.split("|").includes(wanted),
  kind: (row, wanted) => row.dataset.kind === wanted,
  side: (row, wanted) => row.dataset.side === wanted,
};

function marks({ who, mark, other }, row) {
  const codes = row.dataset.codes;
  if (mark && (who ? codes[who] !== mark : !codes.includes(mark))) return false;
  if (!other) return true;
  return who ? codes[who] !== codes[other] : [...codes].some((code) => code !== codes[other]);
}

function filter(form) {
  const wanted = Object.fromEntries([...new FormData(form)].filter(([, value]) => value));
  const holder = document.querySelector(`[data-rows="${CSS.escape(form.dataset.filter)}"]`);
  const rows = holder.tBodies ? [...holder.tBodies[0].rows] : all("[data-row]", holder);
  const grid = rows.length > 0 && rows[0].dataset.codes !== undefined;
  let shown = 0;
  for (const row of rows) {
    const fits = Object.entries(wanted).every(([name, value]) => !tests[name] || tests[name](row, value)) && (!grid || marks(wanted, row));
    if (row.hidden === fits) row.hidden = !fits;
    shown += fits;
  }
  form.querySelector("output").textContent = Object.keys(wanted).length ? `${shown} of ${rows.length} shown` : "";
}

function filtering(form) {
  form.hidden = false;
  const names = [...new Set([...form.elements].map((one) => one.name).filter(Boolean))];
  const changed = () => {
    filter(form);
    const data = new FormData(form);
    keep(Object.fromEntries(names.map((name) => [`${name}.${form.dataset.filter}`, data.get(name)])));
  };
  form.addEventListener("change", changed);
  form.addEventListener("submit", (event) => event.preventDefault());
  form.addEventListener("reset", () => setTimeout(changed));
}

function restore() {
  const { anchor, settings } = state();
  for (const form of all("form[data-filter]")) {
    let any = false;
    for (const field of form.elements) {
      const value = field.name ? settings.get(`${field.name}.${form.dataset.filter}`) : null;
      if (value !== null) {
        field.value = value;
        any = true;
      }
    }
    if (any) filter(form);
  }
  for (const table of all("table[data-table]")) {
    const said = settings.get(`sort.${table.dataset.table}`);
    const place = Math.abs(Number(said));
    if (said !== null && place < table.tHead.rows[0].cells.length) sort(table, place, said.startsWith("-"));
  }
  if (anchor && location.hash.includes("?")) document.getElementById(anchor)?.scrollIntoView();
}

// From failure to failure, by key: on the page first, then on to the next page that has one.
function failure(step) {
  const failed = all(".reply.fail, .reply.part, tr.fail, tr.part, .side.fail").filter((one) => one.offsetParent !== null);
  const here = document.querySelector(".here");
  const middle = window.innerHeight / 3;
  const place = here
    ? failed.indexOf(here) + step
    : step > 0
      ? failed.findIndex((one) => one.getBoundingClientRect().top > 0)
      : failed.findLastIndex((one) => one.getBoundingClientRect().top < middle);
  const next = failed[place];
  if (next) {
    here?.classList.remove("here");
    next.classList.add("here");
    next.scrollIntoView({ block: "center" });
    next.querySelector("a")?.focus({ preventScroll: true });
  } else if (!document.body.classList.contains("single")) {
    document.querySelector(`a[data-failure="${step > 0 ? "after" : "before"}"]`)?.click();
  }
}

document.addEventListener("keydown", (event) => {
  if (event.ctrlKey || event.metaKey || event.altKey || event.target.closest("input, select, textarea")) return;
  if (event.key === "n") failure(1);
  else if (event.key === "p") failure(-1);
  else if (event.key === "/") {
    const field = document.querySelector('input[type="search"]');
    event.preventDefault();
    if (field) field.focus();
    else document.querySelector('.top a[href$="search.html"]')?.click();
  }
});

// A question as text, as one would paste it into a message.
async function copy(button) {
  const asked = document.getElementById(button.dataset.copy);
  const options = all(".options li", asked).map((one) => one.firstChild.textContent.trim());
  const text = [...all("pre", asked).map((one) => one.textContent), options.join("\n")].filter(Boolean).join("\n\n");
  try {
    await navigator.clipboard.writeText(text);
  } catch {
    const area = document.createElement("textarea");
    area.value = text;
    document.body.append(area);
    area.select();
    document.execCommand("copy");
    area.remove();
  }
  button.textContent = "Copied";
  setTimeout(() => (button.textContent = "Copy as text"), 2000);
}

// The search: its texts are packed in a script of their own, loaded when it is first needed.
const MOST_FOUND = 200;
let searched = null;

async function texts(address) {
  if (searched) return searched;
  await new Promise((done, failed) => {
    const script = document.createElement("script");
    script.src = address;
    script.onload = done;
    script.onerror = failed;
    document.head.append(script);
  });
  const packed = Uint8Array.from(atob(window.searchedTexts), (sign) => sign.charCodeAt(0));
  const stream = new Blob([packed]).stream().pipeThrough(new DecompressionStream("gzip"));
  searched = JSON.parse(await new Response(stream).text());
  return searched;
}

function around(text, words) {
  const low = text.toLowerCase();
  const at = Math.max(0, low.indexOf(words[0]) - 60);
  return (at ? "…" : "") + text.slice(at, at + 180).replace(/\s+/g, " ") + (at + 180 < text.length ? "…" : "");
}

function entry(address, heading, said) {
  const item = document.createElement("li");
  const link = document.createElement("a");
  link.href = address;
  link.textContent = heading;
  item.append(link, document.createElement("br"), said);
  return item;
}

async function search(form) {
  const data = new FormData(form);
  const words = data.get("words").toLowerCase().split(/\s+/).filter(Boolean);
  const list = document.querySelector(".found");
  list.replaceChildren();
  if (!words.length) return void (form.querySelector("output").textContent = "");
  const where = data.get("where");
  const holds = (text) => words.every((word) => text.toLowerCase().includes(word));
  const found = [];
  for (const one of await texts(form.dataset.search)) {
    if (where !== "replies" && holds(`${one.id} ${one.category} ${one.text}`)) found.push(entry(one.to, `${one.suite}: ${one.id}`, around(one.text, words)));
    if (where !== "questions") {
      for (const [anchor, entrant, sign, text] of one.replies) {
        if (text && holds(text)) found.push(entry(`${one.to}#${encodeURIComponent(anchor)}`, `${one.suite}: ${one.id}, ${entrant} ${sign}`, around(text, words)));
      }
    }
  }
  list.append(...found.slice(0, MOST_FOUND));
  form.querySelector("output").textContent = found.length > MOST_FOUND ? `${found.length} found, the first ${MOST_FOUND} shown` : `${found.length} found`;
}

function searching(form) {
  form.hidden = false;
  form.addEventListener("submit", (event) => {
    event.preventDefault();
    const data = new FormData(form);
    keep({ words: data.get("words"), where: data.get("where") });
    search(form);
  });
  const { settings } = state();
  if (settings.get("words")) {
    form.elements.words.value = settings.get("words");
    form.elements.where.value = settings.get("where") ?? "";
    search(form);
  }
  form.elements.words.focus();
}

function begin() {
  all("table[data-table]").forEach(sortable);
  all("form[data-filter]").forEach(filtering);
  all("form[data-search]").forEach(searching);
  all("button[data-copy]").forEach((button) => {
    button.hidden = false;
    button.addEventListener("click", () => copy(button));
  });
  restore();
  window.addEventListener("hashchange", restore);
}

if (document.readyState === "loading") document.addEventListener("DOMContentLoaded", begin);
else begin();
