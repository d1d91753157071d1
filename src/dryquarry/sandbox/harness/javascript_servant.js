// Runs inside the sandbox beside a JavaScript program: calls what it is told to call, and says what came back.
// It is told nothing of what is wanted, and needs nothing but Node.
"use strict";
const fs = require("fs");
const path = require("path");
const vm = require("vm");
const { createRequire } = require("module");
const { pathToFileURL } = require("url");

const MOST = 200000;
const LONGEST_TEXT = 1000000;

function encoder() {
  let count = 0;
  const seen = new Set();
  function value(thing, depth) {
    count += 1;
    if (count > MOST || depth > 90) return { "~": "other", v: "more than can be shown" };
    if (thing === null || typeof thing === "boolean") return thing;
    if (thing === undefined) return { "~": "undefined" };
    if (typeof thing === "string") return thing.slice(0, LONGEST_TEXT).toWellFormed ? thing.slice(0, LONGEST_TEXT).toWellFormed() : thing;
    if (typeof thing === "number") {
      return Number.isFinite(thing) ? thing : { "~": "number", v: Number.isNaN(thing) ? "nan" : thing > 0 ? "inf" : "-inf" };
    }
    if (typeof thing === "bigint") return { "~": "number", v: String(thing) };
    if (typeof thing !== "object") return { "~": "other", kind: typeof thing, v: String(thing).slice(0, 500) };
    if (seen.has(thing)) return { "~": "other", v: "itself" };
    seen.add(thing);
    try {
      return object(thing, depth);
    } finally {
      seen.delete(thing);
    }
  }
  function object(thing, depth) {
    if (Array.isArray(thing) || ArrayBuffer.isView(thing)) return Array.from(thing, (one) => value(one, depth + 1));
    const kind = Object.prototype.toString.call(thing);
    if (kind === "[object Set]") return { "~": "set", v: Array.from(thing, (one) => value(one, depth + 1)) };
    if (kind === "[object Map]") {
      return { "~": "map", v: Array.from(thing, ([key, one]) => [value(key, depth + 1), value(one, depth + 1)]) };
    }
    if (kind === "[object Date]") return { "~": "date", v: Number.isNaN(thing.getTime()) ? "no date" : thing.toISOString() };
    if (typeof thing[Symbol.iterator] === "function") {
      const members = [];
      for (const one of thing) {
        members.push(value(one, depth + 1));
        if (members.length > MOST) break;
      }
      return members;
    }
    return { "~": "map", v: Object.entries(thing).map(([key, one]) => [key, value(one, depth + 1)]) };
  }
  return (thing) => value(thing, 0);
}

function raised(error) {
  const kinds = [];
  let kind = error && typeof error === "object" ? Object.getPrototypeOf(error) : null;
  while (kind && kind !== Object.prototype) {
    const name = kind.constructor && kind.constructor.name;
    if (name) kinds.push(name);
    kind = Object.getPrototypeOf(kind);
  }
  if (!kinds.length) kinds.push("a thrown value");
  const said = error && typeof error === "object" && "message" in error ? error.message : String(error);
  const place = /program[^:\n]*:(\d+)/.exec((error && error.stack) || "");
  return { raised: kinds, message: String(said).slice(0, 2000), line: place ? Number(place[1]) : null };
}

async function load(main) {
  const source = fs.readFileSync(main, "utf-8");
  const full = path.resolve(main);
  if (main.endsWith(".mjs") || /^\s*(?:export\s|import\s[^(])/m.test(source)) {
    let place = full;
    if (!main.endsWith(".mjs")) {
      place = full.replace(/\.c?js$/, "") + ".mjs";
      fs.writeFileSync(place, source);
    }
    const found = await import(pathToFileURL(place));
    return (name) => (name in found ? found[name] : found.default && found.default[name] !== undefined ? found.default[name] : found.default && found.default.name === name ? found.default : undefined);
  }
  const module = { exports: {}, filename: full, id: full, loaded: false, children: [] };
  // `require.main` is another module, so what a program does only when it is started is not done
  Object.assign(globalThis, { require: createRequire(full), module, exports: module.exports, __filename: full, __dirname: path.dirname(full) });
  vm.runInThisContext(source, { filename: full });
  return (name) => {
    const exported = module.exports;
    if (exported && exported[name] !== undefined) return exported[name];
    if (typeof exported === "function" && exported.name === name) return exported;
    try {
      return vm.runInThisContext(name);
    } catch {
      return undefined;
    }
  };
}

function named(find, whole) {
  const parts = whole.split(".");
  let owner = undefined;
  let thing = find(parts[0]);
  for (const part of parts.slice(1)) {
    owner = thing;
    thing = thing === undefined || thing === null ? undefined : thing[part];
  }
  return [thing, owner];
}

async function answer(find, failed, wish) {
  if (failed) return failed;
  try {
    const [thing, owner] = named(find, wish.path);
    if (thing === undefined) return { raised: ["ReferenceError"], message: "", undefined: true };
    const extra = Object.keys(wish.kw).length ? [wish.kw] : [];
    return { value: encoder()(await thing.apply(owner, [...wish.args, ...extra])) };
  } catch (error) {
    return raised(error);
  }
}

async function main() {
  const [come, go] = [Number(process.argv[2]), Number(process.argv[3])];
  let find = null;
  let failed = null;
  try {
    find = await load(process.argv[4]);
  } catch (error) {
    failed = { ...raised(error), loading: true };
  }
  let rest = "";
  const chunk = Buffer.alloc(65536);
  for (;;) {
    const size = fs.readSync(come, chunk, 0, chunk.length, null);
    if (size === 0) break;
    rest += chunk.toString("utf-8", 0, size);
    const lines = rest.split("\n");
    rest = lines.pop();
    for (const line of lines) {
      const wish = JSON.parse(line);
      const said = JSON.stringify({ ...(await answer(find, failed, wish)), id: wish.id }) + "\n";
      fs.writeSync(go, said);
    }
  }
  process.exit(0);
}

main();
