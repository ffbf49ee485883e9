/* The table of classes: sorted by any measure, filtered by what one types or chooses. */

const AT_FIRST = 100;
const COLUMNS = ["strain", "hard-bonds", "hard-in", "fan-in", "fan-out", "ripple", "reach", "lines"];
const MEANS = {
  "strain": "the additive score", "hard-bonds": "hard bonds out", "hard-in": "hard bonds in", "fan-in": "classes that depend on it",
  "fan-out": "classes it depends on", "ripple": "expected number of classes that feel a change", "reach": "classes that depend on it, over others too",
  "lines": "lines of its declaration",
};
const wanted = { text: "", layer: "", role: "", effect: "", by: "strain", down: true, shown: AT_FIRST };

function measure(row, name) {
  return row[8][data.measures.indexOf(name)];
}

function matching() {
  const text = wanted.text.toLowerCase();
  return data.classes.filter((row) =>
    ofLanguage(row[5]) && (!text || row[0].toLowerCase().includes(text) || row[1].toLowerCase().includes(text)) &&
    (!wanted.layer || (row[4] || "none") === wanted.layer) && (!wanted.role || row[3] === wanted.role) &&
    (!wanted.effect || row[6].includes(wanted.effect)));
}

function sorted(rows) {
  const by = wanted.by, sign = wanted.down ? -1 : 1;
  const key = by === "name" ? (row) => simple(row[0]).toLowerCase() : (row) => measure(row, by);
  return rows.slice().sort((one, other) => {
    const a = key(one), b = key(other);
    return a < b ? -sign : a > b ? sign : one[0] < other[0] ? -1 : 1;
  });
}

function choice(label, name, values, all) {
  const options = [make("option", { value: "" }, all), ...values.map((each) => make("option", { value: each, selected: wanted[name] === each }, each))];
  return make("label", {}, label, make("select", { on: { change: (event) => { wanted[name] = event.target.value; wanted.shown = AT_FIRST; drawRows(); } } }, options));
}

function each(values) {
  return [...new Set(values)].filter(Boolean).sort();
}

function drawClasses() {
  const place = document.getElementById("classes-view");
  const typed = make("input", { type: "search", id: "text", value: wanted.text, on: { input: (event) => { wanted.text = event.target.value; wanted.shown = AT_FIRST; drawRows(); } } });
  const by = make("select", { id: "by", on: { change: (event) => { order(event.target.value, event.target.value !== "name"); } } },
    ["name", ...data.measures].map((name) => make("option", { value: name, selected: wanted.by === name }, name)));
  fill(place,
    make("h1", { id: "classes-title" }, "Classes"),
    make("div", { class: "filters" },
      make("label", {}, "Name or path", typed),
      choice("Layer", "layer", each(data.classes.map((row) => row[4] || "none")), "all"),
      choice("Role", "role", each(data.classes.map((row) => row[3])), "all"),
      choice("Locks in", "effect", each(data.classes.flatMap((row) => row[6])), "anything"),
      make("label", {}, "In order of", by)),
    make("p", { class: "quiet", id: "how-many", role: "status" }),
    make("div", { class: "scroll" }, make("table", { id: "rows" })),
    make("p", {}, make("button", { type: "button", class: "more", id: "more", on: { click: () => { wanted.shown += 400; drawRows(); } } }, "Show more")));
  drawRows();
}

function order(name, down) {
  wanted.down = down;
  wanted.by = name;
  document.getElementById("by").value = name;
  drawRows();
}

function head(name, label, isNumber) {
  const active = wanted.by === name;
  const turn = () => { order(name, active ? !wanted.down : isNumber); document.querySelector(`#rows th[data-by="${name}"] button`).focus(); };
  return make("th", { scope: "col", "data-by": name, class: isNumber && "number", "aria-sort": active && (wanted.down ? "descending" : "ascending") },
    make("button", { type: "button", title: MEANS[name], on: { click: turn } }, label + (active ? (wanted.down ? " ↓" : " ↑") : "")));
}

function drawRows() {
  const found = sorted(matching());
  const columns = COLUMNS.includes(wanted.by) || wanted.by === "name" ? COLUMNS : [wanted.by, ...COLUMNS];
  const rows = found.slice(0, wanted.shown).map((row) => make("tr", {},
    make("th", { scope: "row" }, opener(row[0]), make("div", { class: "tag" }, placed(row[1] + ":" + row[2]))),
    make("td", {}, row[3]), make("td", {}, row[4]),
    columns.map((name) => make("td", { class: "number" }, number(measure(row, name)))),
    make("td", {}, row[6].join(" "))));
  fill(document.getElementById("rows"),
    make("thead", {}, make("tr", {}, head("name", "class", false), make("th", { scope: "col" }, "role"), make("th", { scope: "col" }, "layer"),
      columns.map((name) => head(name, name, true)), make("th", { scope: "col" }, "locks in"))),
    make("tbody", {}, rows));
  const left = data.classesLeft ? `; ${number(data.classesLeft)} that weigh less are not in this page` : "";
  fill(document.getElementById("how-many"), `${counted(found.length, "class", "classes")}, ${number(rows.length)} shown${left}`);
  document.getElementById("more").hidden = rows.length >= found.length;
}
