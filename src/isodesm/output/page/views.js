/* The five views, and the dossier of a class. */

const VIEWS = [["front", "In brief", drawFront], ["classes", "Classes", drawClasses], ["layers", "Layers", drawLayers], ["objects", "Objects", drawObjects], ["plan", "Plan", drawPlan]];

function drawFront() {
  const place = document.getElementById("front-view");
  const rows = data.classes.filter((row) => ofLanguage(row[5]));
  const layers = data.layerCounts.filter((each) => ofLanguage(each[0]));
  const strain = sum(layers.map((each) => each[3])), hard = sum(layers.map((each) => each[4]));
  const bearing = rows.filter((row) => measure(row, "own") > 0).length;
  const languages = data.languages.filter((each) => ofLanguage(each[0]));
  const read = languages.map((each) => NAMES[each[0]] || each[0]).join(", ");
  fill(place,
    make("h1", { id: "front-title" }, hard ? `${number(bearing)} of ${counted(sum(layers.map((each) => each[2])), "class", "classes")} decide for themselves what they work with: ${counted(hard, "hard bond")}, ${number(strain)} points of strain.`
      : "No hard bond was found: what classes work with, they are handed."),
    make("p", { class: "quiet" }, `${read} · ${counted(sum(languages.map((each) => each[1])), "file")} · ${counted(sum(languages.map((each) => each[2])), "line")}`,
      data.date ? " · " + data.date : ""),
    make("div", { class: "columns" },
      make("div", {},
        make("h2", {}, "Where it hurts most"),
        make("div", { class: "stories" }, stories(rows)), key(), begin(), further(rows),
        data.drift && since(data.drift),
        course()),
      make("aside", {}, alone(), kinds(), byLayer(layers))));
}

function begin() {
  const stages = data.plan.stages.slice(0, 3);
  return stages.length ? [make("h2", {}, "Where to begin"), make("ol", {}, stages.map(([number, said]) =>
    make("li", {}, worded(said), " ", make("a", { href: "#plan", on: { click: () => { show("plan"); } } }, `stage ${number}`))))] : "";
}

function stories(rows) {
  const own = data.stories.filter((each) => ofLanguage(each.language));
  const first = own.length ? own : rows.filter((row) => measure(row, "strain") > 0).slice(0, 3).map((row) =>
    ({ name: row[0], file: row[1], line: row[2], strain: measure(row, "strain"), said: "", finding: "" }));
  if (!first.length) return make("p", {}, "Nothing that needs a look.");
  const most = Math.max(...first.map((each) => each.strain), 1);
  return first.map((each) => {
    const row = data.classes.find((one) => one[0] === each.name);
    return make("article", {}, make("h3", {}, opener(each.name, simple(each.name))), row && partsOf(row[7], most, 230),
      make("p", {}, make("strong", {}, number(each.strain)), " points. ", each.said),
      each.finding && make("p", { class: "quiet" }, worded(each.finding)), make("p", { class: "place tag" }, placed(`${each.file}:${each.line}`)));
  });
}

/* The classes after the first, a line each. */
function further(rows) {
  const told = new Set(data.stories.filter((each) => ofLanguage(each.language)).map((each) => each.name));
  const next = rows.filter((row) => !told.has(row[0]) && measure(row, "strain") > 0).slice(0, 7);
  if (!next.length) return "";
  const most = Math.max(...rows.map((row) => measure(row, "strain")), 1);
  return [make("h2", {}, "Then"), make("table", {}, make("thead", {}, make("tr", {}, make("th", { scope: "col", colspan: 2 }, "class"), make("th", { scope: "col", class: "number" }, "strain"),
    make("th", { scope: "col", class: "number" }, "hard bonds"), make("th", { scope: "col" }, "locks in"))), make("tbody", {}, next.map((row) => make("tr", {}, make("th", { scope: "row" }, opener(row[0])),
    make("td", {}, partsOf(row[7], most, 200)), make("td", { class: "number" }, number(measure(row, "strain"))), make("td", { class: "number" }, number(measure(row, "hard-bonds"))), make("td", {}, row[6].join(" "))))))];
}

function course() {
  if (data.course.length < 2) return make("p", { class: "quiet" }, "The course over time stands here with --over.");
  const labels = data.course.map((each) => each[0]);
  return make("div", {}, make("h2", {}, "The course"), curve(data.course.map((each) => each[2]), labels, `Strain from ${number(data.course[0][2])} to ${number(data.course.at(-1)[2])} over ${data.course.length} revisions`),
    make("p", { class: "quiet" }, "Strain at each revision that changed something here."));
}

function since(drift) {
  const list = (title, found) => found.length ? [make("h3", {}, `${title}: ${number(found.length)}`), make("ul", {}, found.slice(0, 12).map((each) =>
    make("li", {}, make("span", { class: each[0] }, each[0]), ` ${each[1]} of `, opener(each[2]), each[3] ? ` on ${simple(each[3])} ` : " ", make("span", { class: "place" }, placed(each[4])))))] : [];
  return make("div", {}, make("h2", {}, `Since ${drift.since}`),
    make("p", {}, `Strain ${drift.strain[0]} → ${drift.strain[1]}, hard bonds ${drift.hardBonds[0]} → ${drift.hardBonds[1]}; ${drift.new.length} new findings, ${drift.gone.length} gone, ${drift.unchanged} as before.`),
    list("New", drift.new), list("Gone", drift.gone), drift.remarks.map((each) => make("p", { class: "quiet" }, each)));
}

function alone() {
  const own = data.alone.filter((each) => ofLanguage(each[0]));
  const [can, all] = [sum(own.map((each) => each[1])), sum(own.map((each) => each[2]))];
  if (!all) return "";
  return make("div", {}, make("h2", {}, `${number(Math.round(100 * can / all))} % can be tested alone`),
    bar([[can / all, "plain"], [1 - can / all, "rest"]], 300, 14, `${can} of ${all} classes with logic`),
    make("p", { class: "quiet" }, `A test can create ${number(can)} of ${number(all)} classes with logic with nothing but values and test doubles.`));
}

function kinds() {
  const totals = new Map();
  for (const [language, kind, level, found] of data.counts) {
    if (!ofLanguage(language)) continue;
    const own = totals.get(kind) || { error: 0, warning: 0, note: 0 };
    own[level] += found;
    totals.set(kind, own);
  }
  const rows = data.kinds.filter(([kind]) => totals.has(kind)).map(([kind, said]) => {
    const own = totals.get(kind);
    return make("tr", {}, make("th", { scope: "row", title: said }, kind), ["error", "warning", "note"].map((level) => make("td", { class: "number" }, own[level] || "·")));
  });
  return make("div", {}, make("h2", {}, "Findings"), make("table", {}, make("thead", {}, make("tr", {}, make("th", { scope: "col" }, "kind"),
    ["error", "warning", "note"].map((level) => make("th", { scope: "col", class: "number" }, level)))), make("tbody", {}, rows)));
}

function byLayer(layers) {
  const totals = new Map();
  for (const [, layer, , strain, hard] of layers) {
    const own = totals.get(layer) || [0, 0];
    totals.set(layer, [own[0] + strain, own[1] + hard]);
  }
  const most = Math.max(...[...totals.values()].map((each) => each[0]), 1);
  const rows = [...totals].filter(([, each]) => each[0]).sort((one, other) => other[1][0] - one[1][0]).map(([layer, [strain, hard]]) =>
    make("tr", {}, make("th", { scope: "row" }, layer || "no layer"), make("td", {}, bar([[strain / most, "plain"]], 110, 11, `${number(strain)} points`)),
      make("td", { class: "number" }, number(strain)), make("td", { class: "number" }, number(hard))));
  return rows.length ? make("div", {}, make("h2", {}, "Strain by layer"), make("table", {}, make("thead", {}, make("tr", {}, make("th", { scope: "col", colspan: 2 }, "layer"),
    make("th", { scope: "col", class: "number" }, "points"), make("th", { scope: "col", class: "number" }, "hard bonds"))), make("tbody", {}, rows))) : "";
}

function drawLayers() {
  const place = document.getElementById("layers-view"), { names, cells } = data.layers;
  if (!names.length) {
    fill(place, make("h1", { id: "layers-title" }, "Layers"), make("p", {}, "There are no layers: all classes lie in one package or folder, and no settings name any."),
      make("p", {}, "isodesm setup writes a settings file to name them in; then their bonds stand here."));
    return;
  }
  const behind = make("div", { id: "behind", role: "status" }, make("p", { class: "quiet" }, "Choose a cell to see the bonds behind it."));
  const find = (one, other) => cells.find((each) => each[0] === one && each[1] === other);
  const rows = names.map((one, index) => make("tr", {}, make("th", { scope: "row" }, one, make("div", { class: "tag" }, counted(data.layers.classes[index], "class", "classes"))), names.map((other) => {
    const cell = find(one, other);
    if (!cell) return make("td", {}, "·");
    const label = `${one} to ${other}: ${counted(cell[2], "bond")}, ${cell[3]} hard${cell[4] ? ", the wrong way" : ""}`;
    return make("td", { class: cell[4] && one !== other && "wrong" }, make("button", { type: "button", "aria-label": label, on: { click: () => showBehind(behind, cell) } },
      (cell[4] && one !== other ? "↑ " : "") + number(cell[2]), cell[3] ? make("span", { class: "hard" }, ` (${cell[3]} hard)`) : ""));
  })));
  fill(place, make("h1", { id: "layers-title" }, data.layers.told ? "Layers" : "Layers, as proposed"),
    data.layers.told ? "" : make("p", {}, "No settings name the layers: these are a proposal, from names, from what the classes do, and from who knows whom. They count in no strain; isodesm layers --write puts them into the settings, to be corrected."),
    make("p", { class: "quiet" }, `Outermost first${data.layers.told ? "," : ":"} ${data.layers.told ? `by ${data.layers.order}` : data.layers.order}. A row depends on its column; ↑ points outwards, the wrong way.`),
    make("div", { class: "scroll" }, make("table", { class: "matrix" }, make("thead", {}, make("tr", {}, make("td", {}), names.map((name) => make("th", { scope: "col" }, name)))), make("tbody", {}, rows))),
    data.layers.unplaced ? make("p", { class: "quiet" }, `${counted(data.layers.unplaced, "class", "classes")} belong to no layer.`) : "", behind, grounds());
}

/** The packages with the layer that is proposed for each, how sure that is, and why. */
function grounds() {
  const { packages } = data.layers;
  if (!packages.length) return "";
  return make("details", {}, make("summary", {}, `Why: ${counted(packages.length, "package")}`), make("table", {}, make("thead", {}, make("tr", {},
    ["package", "layer", "", "classes", "reasons"].map((name) => make("th", { scope: "col" }, name)))), make("tbody", {}, packages.map(([name, layer, certainty, classes, reasons]) =>
    make("tr", {}, make("td", {}, name || "."), make("td", {}, certainty === "open" ? `${layer}?` : layer), make("td", { class: "quiet" }, certainty), make("td", { class: "number" }, number(classes)), make("td", { class: "quiet" }, reasons))))));
}

function showBehind(place, cell) {
  fill(place, make("h2", {}, `${cell[0]} → ${cell[1]}`), make("table", {}, make("tbody", {}, cell[5].map(([source, target, kind, where, hard]) =>
    make("tr", {}, make("td", {}, opener(source), " → ", opener(target)), make("td", { class: hard ? "hard" : "" }, kind + (hard ? ", hard" : "")), make("td", { class: "place" }, placed(where)))))),
    cell[2] > cell[5].length ? make("p", { class: "quiet" }, `One of each kind between two classes, hard ones first; ${number(cell[2])} bonds in all.`) : "");
}

function drawObjects() {
  const place = document.getElementById("objects-view"), shown = make("div", {}), trace = make("div", {});
  const pick = (label, id, found, showOne, into) => found.length ? make("p", {}, make("label", {}, label, make("select", { id, on: { change: (event) => showOne(found[event.target.value], into) } },
    found.map((each, index) => make("option", { value: index }, simple(each[0]) === each[0] ? each[0] : each[0]))))) : make("p", { class: "quiet" }, "There is none here.");
  fill(place, make("h1", { id: "objects-title" }, "Objects"),
    make("h2", {}, "What it takes to have one"), pick("Of class", "tree-of", data.objects, showTree, shown), shown,
    make("h2", {}, "Where a call goes"), pick("From", "trace-of", data.traces, showTrace, trace), trace);
  if (data.objects.length) showTree(data.objects[0], shown);
  if (data.traces.length) showTrace(data.traces[0], trace);
}

function showTree(node, place) {
  const below = ([name, how, lifetime, where, children]) => make("li", {}, opener(name), " ",
    make("span", { class: how === "creates" ? "tag hard" : "tag" }, [how === "root" ? "" : how, lifetime, where].filter(Boolean).join(" · ")), children.length ? make("ul", {}, children.map(below)) : "");
  fill(place, make("ul", { class: "tree" }, below(node)));
}

function showTrace([, why, hop], place) {
  const below = ([name, member, layer, effect, hard, bound, where, hops]) => make("li", {}, effect ? make("strong", {}, `${member} `) : [opener(name), `.${member} `],
    make("span", { class: hard ? "tag hard" : "tag" }, [effect, layer, bound, hard, where].filter(Boolean).join(" · ")), hops.length ? make("ul", {}, hops.map(below)) : "");
  fill(place, make("p", { class: "quiet" }, why), make("ul", { class: "tree" }, below(hop)));
}

function drawPlan() {
  const place = document.getElementById("plan-view"), plan = data.plan;
  const left = [plan.strain[0], ...plan.steps.map((step) => step.strain)];
  const small = left.at(-1) > 0.6 * left[0];  // of which a curve of what is left would show nothing
  const values = small ? left.map((each) => Math.max(left[0] - each, 0)) : left;
  fill(place, make("h1", { id: "plan-title" }, "Plan"),
    plan.steps.length ? [make("p", {}, `${counted(plan.steps.length, "step")}: strain ${number(plan.strain[0])} → ${number(plan.strain[1])}, hard bonds ${number(plan.hardBonds[0])} → ${number(plan.hardBonds[1])}. Each step builds by itself; isodesm step carries them out.`),
      curve(values, values.map((_, index) => index ? `step ${index}` : "today"), small ? "Strain that is gone after each step" : "Strain that is left after each step"),
      make("p", { class: "quiet" }, small ? "Points of strain that are gone after each step." : "Points of strain that are left after each step.")] : make("p", {}, "There is no step to take."),
    plan.steps.map((step) => [plan.stages.filter((each) => each[2] === step.number).map(drawStage), drawStep(step)]),
    plan.notShown ? make("p", { class: "quiet" }, `At least ${counted(plan.notShown, "further step")} can follow; --plan takes more in.`) : "",
    plan.left.length ? [make("h2", {}, "Left, and why"), make("ul", {}, plan.left.map(([why, count]) => make("li", {}, `${number(count)} × `, worded(why))))] : "");
}

function drawStage([number, said, first, last]) {
  return make("h2", { id: "stage-" + number }, `Stage ${number}: `, worded(said), " ", make("span", { class: "tag" }, first === last ? `step ${first}` : `steps ${first} to ${last}`));
}

function drawStep(step) {
  const kept = "isodesm " + step.id;
  const box = make("input", { type: "checkbox", "aria-label": `Step ${step.number} is done`, checked: remembered(kept), on: { change: (event) => remember(kept, event.target.checked), click: (event) => event.stopPropagation() } });
  const list = (title, found) => found.length ? [make("dt", {}, title), make("dd", {}, found.map((each) => make("div", {}, worded(each))))] : [];
  return make("details", { class: "step", id: "step-" + step.id }, make("summary", {}, box, make("span", {}, `${step.number}. ${step.title}`), " ", make("span", { class: "tag" }, `${step.technique} · ${step.estimated ? "estimated: " : ""}strain ${number(step.strain)}, hard bonds ${number(step.hardBonds)}`)),
    make("p", {}, worded(step.why)), make("dl", {}, list("frees", step.frees), list("watch", step.hazards), list("check", [step.check]),
      list("changes", step.actions.map(([file, line, action, byHand]) => `${file}:${line} ${action}${byHand ? " (by hand)" : ""}`))),
    step.code.map(([file, lines]) => [make("p", { class: "place tag" }, placed(file)), make("pre", {}, lines.map(drawLine))]));
}

function drawLine([sign, text]) {
  return make("span", { class: { "-": "minus", "+": "plus" }[sign] || "same" }, `${sign} ${text}\n`);
}

function remembered(name) {
  try { return localStorage.getItem(name) === "done"; } catch { return false; }
}

function remember(name, done) {
  try { done ? localStorage.setItem(name, "done") : localStorage.removeItem(name); } catch { /* a page may be shown where nothing is kept */ }
}

function openDossier(name) {
  const place = document.getElementById("dossier"), known = own(data.dossiers, name) || {}, row = data.classes.find((each) => each[0] === name);
  const said = (title, found) => found && found.length ? [make("dt", {}, title), make("dd", {}, found.map((each) => make("div", {}, each)))] : [];
  const at = (each) => [opener(each.name), each.member ? `.${each.member} ` : " ", make("span", { class: "place" }, placed(`${each.file}:${each.line}`), ` ${each.detail || ""}`)];
  const findings = data.findings.filter((each) => each.source === name || (known.findings || []).includes(each.id));
  const steps = data.plan.steps.filter((step) => step.classes.includes(name));
  fill(place, make("p", {}, make("button", { type: "button", class: "close", on: { click: () => place.close() } }, "Close")),
    make("h2", { id: "dossier-title" }, name), row && make("p", { class: "quiet" }, `${row[3]}${row[4] ? " · " + row[4] : ""} · `, make("span", { class: "place" }, placed(`${row[1]}:${row[2]}`))),
    row && measure(row, "strain") ? [partsOf(row[7], measure(row, "strain"), 520), key()] : "",
    make("dl", {}, said("role", known.role_evidence), said("constructor", own(known, "constructor") ? [make("code", {}, own(known, "constructor"))] : []),
      said("takes", (known.needs || []).map((each) => `${each.name}: ${each.type} – ${each.how}${each.served_by ? ", " + simple(each.served_by) : ""}`)),
      said("made by", (known.made_by || []).map((each) => `${each.by}: ${each.what} ${each.file ? each.file + ":" + each.line : ""}`)),
      said("creates", (known.creates || []).map(at)), said("looks up", (known.looks_up || []).map(at)), said("handed to", (known.handed_to || []).slice(0, 12).map(at)),
      said("locked in", (known.locked || []).map((each) => `${each.effect}: ${each.chain.map((one) => one.split(/[\\#/]/).pop()).join(" → ")}`)),
      said("members", (known.members || []).slice(0, 15).map((each) => `${each.name} ← ${each.users.map(simple).join(", ") || "tests"}`)),
      said("falls apart into", (known.splits || []).map((each) => `{${each.members.join(", ")}} for ${each.consumers.map(simple).join(", ")}`)),
      said("tests", (known.tests || []).slice(0, 8).map((each) => `${simple(each.name)}${each.directly ? "" : ", over others"}`)),
      said("changes with", (known.partners || []).slice(0, 6).map((each) => `${each.name || each.file} ${counted(each.together, "commit")}`)),
      said("speaks for it", known.worth ? [known.worth] : []),
      said("measures", row ? [data.measures.map((each) => `${each} ${number(measure(row, each))}`).join(" · ")] : [])),
    findings.length ? make("h3", {}, "Findings") : "", findings.map(drawFinding),
    steps.length ? [make("h3", {}, "Steps"), make("ul", {}, steps.map((step) => make("li", {}, make("button", { type: "button", class: "link", on: { click: () => goToStep(step.id) } }, `${step.number}. ${step.title}`))))] : "");
  if (!place.open) place.showModal();
  place.scrollTop = 0;
}

function drawFinding(each) {
  return make("div", { class: "finding " + each.level }, make("p", {}, make("span", { class: each.level }, each.level), ` ${each.kind} `, make("span", { class: "place" }, placed(`${each.file}:${each.line}:${each.column}`))),
    each.snippet ? make("pre", {}, each.snippet.trim()) : "", make("p", {}, worded(each.message), " ", worded(each.reason || "")), each.remedy ? make("p", { class: "quiet" }, "→ ", worded(each.remedy)) : "");
}

function goToStep(id) {
  document.getElementById("dossier").close();
  location.hash = "plan";
  show("plan");
  const step = document.getElementById("step-" + id);
  step.open = true;
  step.scrollIntoView();
  step.querySelector("summary").focus();
}
