"use strict";
// A wall of pictures. Rows arrive in parts; only the lines of tiles that can be seen are in the document.
const magpie = (() => {
  const TILE = 234, HEAD = 38, NARROWEST = 190, GAP = 12, PRINTED = 2000;
  const at = id => document.getElementById(id);
  const wall = at("wall"), order = new Intl.Collator("en", {numeric: true, sensitivity: "base"});
  const rows = [], texts = [], known = new Map(), chosen = new Set(), drawn = new Map();
  const facts = new Map();
  let setup = {}, lines = [], cells = [], across = 1, current = 0, opened = -1, drawing = 0, printing = false;

  function make(name, properties, ...children) {
    const element = Object.assign(document.createElement(name), properties);
    element.append(...children);
    return element;
  }

  // ---- what there is

  function take(part) {
    for (const row of part) {
      texts.push([row.name, row.path, row.maker, row.show, ...(row.tags || [])].join("\n").toLowerCase());
      for (const [name, value] of Object.entries(row.facts || {})) {
        if (!facts.has(name)) facts.set(name, new Map());
        for (const one of [value].flat()) facts.get(name).set(one, (facts.get(name).get(one) || 0) + 1);
      }
      row.day = Number((row.arrived || "").replaceAll("-", ""));
      rows.push(row);
    }
  }

  function counted(values) {
    const counts = new Map();
    for (const value of values) counts.set(value, (counts.get(value) || 0) + 1);
    return [...counts].sort((a, b) => order.compare(a[0], b[0]));
  }

  function fill(select, pairs, first) {
    const was = select.value;
    const options = pairs.map(([value, count]) => make("option", {value, textContent: `${value} (${count.toLocaleString("en")})`}));
    select.replaceChildren(...(first ? [make("option", {value: "", textContent: first})] : []), ...options);
    if ([...select.options].some(option => option.value === was)) select.value = was;
  }

  function offer() {
    fill(at("kind"), counted(rows.map(row => row.kind)), "all");
    fill(at("tag"), counted(rows.flatMap(row => row.tags || [])), "any");
    const useful = [...facts].filter(([, values]) => values.size < 400).map(([name, values]) => [name, values.size]);
    fill(at("fact"), useful.sort((a, b) => order.compare(a[0], b[0])), "any");
    offerValues();
  }

  function offerValues() {
    const values = facts.get(at("fact").value);
    at("of-fact").hidden = !values;
    fill(at("value"), values ? [...values].sort((a, b) => order.compare(a[0], b[0])) : [], "");
  }

  // ---- which of it is shown, and in what order

  function matching() {
    const wanted = setup.paged ? "" : at("words").value.trim().toLowerCase();
    const kind = at("kind").value, tag = at("tag").value, fact = at("fact").value, value = at("value").value;
    const found = [];
    for (let number = 0; number < rows.length; number++) {
      const row = rows[number];
      if (kind && row.kind !== kind) continue;
      if (tag && !(row.tags || []).includes(tag)) continue;
      if (fact && ![(row.facts || {})[fact]].flat().includes(value)) continue;
      if (wanted && !texts[number].includes(wanted)) continue;
      found.push(number);
    }
    return found;
  }

  function sorted(found) {
    if (setup.paged) return found;
    const by = at("sort").value, down = at("down").checked ? -1 : 1;
    if (!by) return down < 0 ? found.reverse() : found;
    return found.sort((a, b) => {
      const one = rows[a][by] ?? -1, other = rows[b][by] ?? -1;
      return one < other ? -down : one > other ? down : a - b;
    });
  }

  function grouped(found) {
    const by = at("group").value;
    if (!by) return [["", found]];
    const groups = new Map();
    for (const number of found) {
      for (const value of [rows[number][by] ?? ""].flat().concat(by === "tags" && !rows[number].tags ? [""] : [])) {
        if (by === "tags" && value === "" && rows[number].tags) continue;
        if (!groups.has(value)) groups.set(value, []);
        groups.get(value).push(number);
      }
    }
    return [...groups].sort((a, b) => (a[0] === "") - (b[0] === "") || order.compare(a[0], b[0]));
  }

  function arrange() {
    const was = cells[current];
    const found = matching();
    const count = found.length.toLocaleString("en"), all = rows.length.toLocaleString("en");
    at("count").textContent = setup.count || (found.length === rows.length ? `${all} items` : `${count} of ${all} items`);
    at("none").hidden = found.length > 0;
    across = Math.max(1, Math.floor((wall.clientWidth + GAP) / (NARROWEST + GAP)));
    wall.style.setProperty("--across", across);
    lines = []; cells = [];
    let top = 0;
    for (const [name, members] of grouped(sorted(found))) {
      if (at("group").value) {
        lines.push({top, name: name === "" ? `no ${at("group").selectedOptions[0].textContent}` : name, count: members.length});
        top += HEAD;
      }
      for (let first = 0; first < members.length; first += across) {
        const last = Math.min(first + across, members.length);
        lines.push({top, from: cells.length + first, to: cells.length + last});
        top += TILE;
      }
      for (const number of members) cells.push(number);
    }
    wall.style.height = `${top}px`;
    wall.setAttribute("aria-rowcount", lines.length);
    wall.setAttribute("aria-colcount", across);
    current = Math.max(0, was === undefined ? 0 : cells.indexOf(was));
    for (const element of drawn.values()) element.remove();
    drawn.clear();
    draw();
  }

  // ---- drawing

  function lineAt(top) {
    let low = 0, high = lines.length - 1;
    while (low < high) {
      const middle = (low + high + 1) >> 1;
      if (lines[middle].top <= top) low = middle; else high = middle - 1;
    }
    return low;
  }

  function draw() {
    drawing = 0;
    if (printing) return;
    const above = wall.getBoundingClientRect().top, margin = window.innerHeight / 2;
    const first = lines.length ? lineAt(-above - margin) : 0;
    let last = first;
    while (last < lines.length && lines[last].top < window.innerHeight - above + margin) last++;
    const focused = document.activeElement && document.activeElement.dataset ? document.activeElement.dataset.cell : undefined;
    for (const [number, element] of drawn) {
      if (number < first || number >= last) {
        if (element.contains(document.activeElement)) continue;
        element.remove();
        drawn.delete(number);
      }
    }
    for (let number = first; number < last; number++) {
      if (!drawn.has(number)) {
        const element = line(number);
        drawn.set(number, element);
        const after = [...drawn].filter(([other]) => other > number).sort((a, b) => a[0] - b[0])[0];
        wall.insertBefore(element, after ? after[1] : null);
      }
    }
    if (focused === undefined) point();
  }

  function line(number) {
    const {top, name, count, from, to} = lines[number];
    const element = make("div", {className: "line"});
    element.setAttribute("role", "row");
    element.setAttribute("aria-rowindex", number + 1);
    element.style.top = `${top}px`;
    if (name !== undefined) {
      const head = make("div", {textContent: name});
      head.setAttribute("role", "rowheader");
      head.append(make("small", {textContent: ` ${count.toLocaleString("en")}`}));
      element.classList.add("head");
      element.append(head);
    }
    for (let cell = from; cell < to; cell++) element.append(tile(cell));
    return element;
  }

  function tile(cell) {
    const row = rows[cells[cell]];
    const element = make("div", {className: "tile", tabIndex: cell === current ? 0 : -1, title: row.path});
    element.dataset.cell = cell;
    element.setAttribute("role", "gridcell");
    element.setAttribute("aria-selected", chosen.has(row.id));
    const about = make("div", {className: "about"});
    const mark = row.gone || row.state;
    if (mark) about.append(make("b", {textContent: mark}), " ");
    about.append([row.about, ...(row.tags || [])].filter(Boolean).join(" · "));
    element.append(picture(row), make("div", {className: "name", textContent: row.name}), about);
    element.append(make("span", {className: "tick", ariaHidden: "true"}));
    return element;
  }

  function picture(row) {
    if (!row.picture) return make("div", {className: "none", textContent: row.kind});
    const image = make("img", {alt: "", decoding: "async", draggable: false});
    image.addEventListener("error", () => image.replaceWith(make("div", {className: "none", textContent: row.kind})));
    image.src = setup.pictures + row.picture;
    return image;
  }

  function point() {
    for (const element of wall.querySelectorAll("[tabindex='0']")) element.tabIndex = -1;
    const element = wall.querySelector(`[data-cell='${current}']`) || wall.querySelector("[data-cell]");
    if (element) element.tabIndex = 0;
  }

  function soon() { drawing = drawing || requestAnimationFrame(draw); }

  // ---- moving about

  function lineOf(cell) {
    let low = 0, high = lines.length - 1;
    while (low < high) {  // lines with a name have no cells: they count as those behind them
      const middle = (low + high) >> 1;
      let upper = middle;
      while (upper < high && lines[upper].to === undefined) upper++;
      if (lines[upper].to !== undefined && lines[upper].to <= cell) low = upper + 1; else high = middle;
    }
    while (lines[low] && lines[low].to === undefined) low++;
    return low;
  }

  function go(cell) {
    if (!cells.length) return;
    current = Math.min(Math.max(cell, 0), cells.length - 1);
    const {top} = lines[lineOf(current)];
    const head = document.querySelector("header").getBoundingClientRect().height;
    const there = wall.getBoundingClientRect().top + top;
    if (there < head + HEAD) window.scrollBy(0, there - head - HEAD);
    if (there + TILE > window.innerHeight) window.scrollBy(0, there + TILE - window.innerHeight + GAP);
    draw();
    point();
    const element = wall.querySelector(`[data-cell='${current}']`);
    if (element) element.focus({preventScroll: true});
  }

  function up(down) {
    const here = lineOf(current), column = current - lines[here].from;
    let next = here + down;
    while (lines[next] && lines[next].to === undefined) next += down;
    return lines[next] ? Math.min(lines[next].from + column, lines[next].to - 1) : current;
  }

  function page() { return Math.max(1, Math.floor(window.innerHeight / TILE) - 1); }

  const KEYS = {
    ArrowRight: () => current + 1, ArrowLeft: () => current - 1, ArrowDown: () => up(1), ArrowUp: () => up(-1),
    Home: () => 0, End: () => cells.length - 1,
    PageDown: () => current + page() * across, PageUp: () => current - page() * across,
  };

  wall.addEventListener("keydown", event => {
    if (event.ctrlKey || event.metaKey || event.altKey || event.target.dataset.cell === undefined) return;
    if (event.key === "Enter") { event.preventDefault(); open(current); }
    else if (event.key === " ") { event.preventDefault(); choose(current); }
    else if (KEYS[event.key]) { event.preventDefault(); go(KEYS[event.key]()); }
  });
  wall.addEventListener("focusin", event => {
    const cell = event.target.dataset.cell;
    if (cell !== undefined && +cell !== current) { current = +cell; point(); }
  });
  wall.addEventListener("click", event => {
    const element = event.target.closest("[data-cell]");
    if (!element) return;
    current = +element.dataset.cell;
    if (event.target.classList.contains("tick") || event.ctrlKey || event.metaKey) choose(current); else open(current);
  });
  document.addEventListener("keydown", event => {
    if (document.querySelector("dialog[open]")) return;
    if (event.key === "/" && !event.target.closest("input, select, textarea")) { event.preventDefault(); at("words").focus(); }
    if (event.key === "Escape" && event.target === at("words")) at("words").blur();
  });

  // ---- selecting

  function choose(cell) {
    const {id} = rows[cells[cell]];
    if (!chosen.delete(id)) chosen.add(id);
    for (const element of wall.querySelectorAll("[data-cell]")) {
      element.setAttribute("aria-selected", chosen.has(rows[cells[element.dataset.cell]].id));
    }
    at("chosen").hidden = !chosen.size;
    at("how-many").textContent = `${chosen.size.toLocaleString("en")} selected`;
  }

  const place = row => row.at || row.path;
  const quoted = text => `'${text.replaceAll("'", "'\\''")}'`;
  const listed = path => /^"|^\s|\s$|[\u0000-\u001f\u007f\u2028\u2029]/.test(path) ? JSON.stringify(path) : path;
  const selection = () => rows.filter(row => chosen.has(row.id)).map(place);

  function show(name, about, text) {
    at("text-name").textContent = name;
    at("text-about").textContent = about;
    at("text-body").value = text;
    at("save").href = `data:text/plain;charset=utf-8,${encodeURIComponent(text)}`;
    at("text").showModal();
    at("text-body").select();
  }

  at("as-words").addEventListener("click", () => show("Find words",
    "They name the same items behind find, tag put, tidy, hold and others:", selection().map(quoted).join(" ")));
  at("as-list").addEventListener("click", () => show("List of paths",
    "Save it; then, for example: magpie hold --from chosen.txt", selection().map(listed).join("\n") + "\n"));
  at("clear").addEventListener("click", () => { chosen.clear(); at("chosen").hidden = true; arrange(); });
  at("copy").addEventListener("click", () => copy(at("text-body").value));

  function copy(text) {
    const old = () => { at("text-body").value = text; at("text-body").select(); document.execCommand("copy"); };
    if (navigator.clipboard) navigator.clipboard.writeText(text).catch(old); else old();
  }

  // ---- one item, whole

  function open(cell) {
    opened = cell;
    const number = cells[cell], row = rows[number];
    at("item-name").textContent = row.name;
    at("item-body").replaceChildren(make("p", {textContent: "…"}));
    if (!at("item").open) at("item").showModal();
    const part = Math.floor(number / setup.part);
    if (known.has(part)) return fillItem(number, row);
    const script = make("script", {src: `${setup.details}${String(part).padStart(4, "0")}.js`});
    script.addEventListener("load", () => opened === cell && fillItem(number, row));
    script.addEventListener("error", () => at("item-body").replaceChildren(make("p", {textContent: "Its details can't be read: the files beside this page are missing."})));
    document.head.append(script);
  }

  function fillItem(number, row) {
    const more = known.get(Math.floor(number / setup.part))[number % setup.part];
    const facts = make("dl");
    const said = [["kind", row.kind], ["path", row.path], ["shelf", row.shelf], ["tags", (row.tags || []).join(", ")], ["arrived", row.arrived], ["id", row.id], ...more.known];
    for (const [name, text] of said) if (text) facts.append(make("dt", {textContent: name}), make("dd", {textContent: text}));
    const files = more.files.map(([path, size, role, link]) => {
      const name = link ? make("a", {href: link, textContent: path}) : path;
      return make("li", {}, name, " ", make("small", {textContent: `${size} ${role}`}));
    });
    const right = make("div", {}, facts);
    if (more.doubts.length) right.append(part("In doubt", more.doubts.map(text => make("li", {textContent: text}))));
    right.append(part("Files", files));
    if (more.copies.length) right.append(part("Copies", more.copies.map(text => make("li", {textContent: text}))));
    const path = quoted(place(row));
    const acts = [`magpie show ${path}`, `magpie tag put TAG ${path}`, `magpie tidy ${path}`, `magpie hold ${path}`];
    if (row.state) acts.unshift(`magpie settle ${path} --ask`);
    if (row.gone) acts.splice(0, acts.length, `magpie show ${row.id}`);
    right.append(make("h3", {textContent: "Commands"}), ...acts.map(command));
    at("item-body").replaceChildren(make("div", {className: "whole"}, make("div", {}, picture(row)), right));
  }

  function part(name, members) { return make("div", {}, make("h3", {textContent: name}), make("ul", {}, ...members)); }

  function command(text) {
    const button = make("button", {type: "button", textContent: "copy", ariaLabel: `copy ${text}`});
    button.addEventListener("click", () => copy(text));
    return make("div", {className: "command"}, make("code", {textContent: text}), button);
  }

  function step(by) {
    const next = opened + by;
    if (next >= 0 && next < cells.length) { current = next; open(next); }
  }

  at("back").addEventListener("click", () => step(-1));
  at("next").addEventListener("click", () => step(1));
  at("item").addEventListener("keydown", event => {
    if (event.key === "ArrowRight") step(1);
    if (event.key === "ArrowLeft") step(-1);
  });
  at("item").addEventListener("close", () => { opened = -1; go(current); });
  for (const button of document.querySelectorAll("dialog .close")) {
    button.addEventListener("click", () => button.closest("dialog").close());
  }

  // ---- the tools, and the window

  let typing = 0;
  at("tools").addEventListener("input", event => {
    if (setup.paged && event.target.name) return;
    if (event.target === at("fact")) offerValues();
    clearTimeout(typing);
    typing = setTimeout(() => { window.scrollTo(0, 0); arrange(); }, event.target === at("words") ? 120 : 0);
  });
  at("tools").addEventListener("submit", event => { if (!setup.paged) event.preventDefault(); });
  window.addEventListener("scroll", soon, {passive: true});
  window.addEventListener("resize", () => { clearTimeout(typing); typing = setTimeout(arrange, 100); });
  window.addEventListener("beforeprint", () => {
    printing = true;
    for (const element of drawn.values()) element.remove();
    drawn.clear();
    let count = 0;
    for (let number = 0; number < lines.length && count < PRINTED; number++) {
      count += (lines[number].to || 0) - (lines[number].from || 0);
      drawn.set(number, line(number));
      wall.append(drawn.get(number));
    }
  });
  window.addEventListener("afterprint", () => { printing = false; arrange(); });

  function more(part) {
    if (part >= setup.parts) { offer(); return setTimeout(arrange, 0); }
    const script = make("script", {src: `${setup.data}${String(part).padStart(4, "0")}.js`, async: true});
    const next = () => {
      script.remove();
      if (part === 0) arrange();
      setTimeout(more, 0, part + 1);
    };
    script.addEventListener("load", next);
    script.addEventListener("error", next);
    document.head.append(script);
  }

  return {
    start(given) { setup = given; },
    rows: take,
    details(part, given) { known.set(part, given); },
    ready() {
      offer();
      arrange();
      if (setup.parts) requestAnimationFrame(() => setTimeout(more, 0, 0));
    },
  };
})();
