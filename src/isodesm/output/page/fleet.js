/* The page about many trees: the trees by any column, the worst classes of all, and what several trees share. */

const HEADS = [["tree", false], ["lines", true], ["classes", true], ["strain", true], ["hard bonds", true], ["per 1,000 lines", true]];
const order = { by: 3, down: true };

function drawFleet() {
  const trees = data.trees, strain = sum(trees.map((each) => each[3])), hard = sum(trees.map((each) => each[4]));
  const half = halfOf(trees.map((each) => each[3]));
  fill(document.getElementById("fleet-view"),
    make("h1", { id: "fleet-title" }, strain ? `${number(strain)} points of strain in ${counted(hard, "hard bond")}; half of it lies in ${number(half)} of ${counted(trees.length, "tree")}.` : "No hard bond was found in any tree."),
    make("p", { class: "quiet" }, `${counted(sum(trees.map((each) => each[1])), "line")} · ${counted(sum(trees.map((each) => each[2])), "class", "classes")}`, data.date ? " · " + data.date : ""),
    make("h2", {}, "Trees"), make("div", { class: "scroll" }, make("table", { id: "trees" })),
    data.failed.length ? [make("h2", {}, "Not answered for"), make("ul", {}, data.failed.map(([name, why]) => make("li", {}, `${name}: ${why}`)))] : "",
    make("h2", {}, "The worst classes of all"), worst(),
    data.shared.length ? [make("h2", {}, "What several trees declare or use"), shared()] : "");
  drawTrees();
}

/* How many of the largest it takes to have half of all. */
function halfOf(values) {
  let left = sum(values) / 2, count = 0;
  for (const each of values.slice().sort((one, other) => other - one)) {
    if (left <= 0) break;
    left -= each;
    count += 1;
  }
  return count;
}

function drawTrees() {
  const sign = order.down ? -1 : 1, most = Math.max(...data.trees.map((each) => each[3]), 1);
  const rows = data.trees.slice().sort((one, other) => one[order.by] < other[order.by] ? -sign : one[order.by] > other[order.by] ? sign : one[0] < other[0] ? -1 : 1);
  fill(document.getElementById("trees"),
    make("thead", {}, make("tr", {}, HEADS.map(([label, isNumber], index) => make("th", { scope: "col", class: isNumber && "number", "data-by": label, "aria-sort": order.by === index && (order.down ? "descending" : "ascending") },
      make("button", { type: "button", on: { click: () => { turn(index, isNumber); } } }, label + (order.by === index ? (order.down ? " ↓" : " ↑") : "")))),
      make("th", { scope: "col" }, "strain beside the others"), make("th", { scope: "col" }, "worst class"), data.trees.some((each) => each[9] !== null) && make("th", { scope: "col", class: "number" }, "since its mark"))),
    make("tbody", {}, rows.map((row) => make("tr", {}, make("th", { scope: "row" }, row[0], make("div", { class: "tag" }, row[6])), row.slice(1, 6).map((each) => make("td", { class: "number" }, number(each))),
      make("td", {}, bar([[row[3] / most, "plain"]], 160, 12, `${number(row[3])} points`)), make("td", {}, simple(row[7]), " ", make("span", { class: "tag" }, row[7] ? number(row[8]) : "")),
      data.trees.some((each) => each[9] !== null) && make("td", { class: "number" }, row[9] === null ? "" : (row[3] > row[9] ? "+" : row[3] < row[9] ? "−" : "±") + number(Math.abs(row[3] - row[9])))))));
}

function turn(index, isNumber) {
  order.down = order.by === index ? !order.down : isNumber;
  order.by = index;
  drawTrees();
  document.querySelectorAll("#trees th button")[index].focus();
}

function table(heads, rows) {
  return make("div", { class: "scroll" }, make("table", {}, make("thead", {}, make("tr", {}, heads.map((head) => make("th", { scope: "col", class: ["strain", "hard bonds", "places"].includes(head) && "number" }, head)))), make("tbody", {}, rows)));
}

function worst() {
  return table(["class", "tree", "strain", "hard bonds", "locks in"], data.worst.map(([tree, name, where, strain, hard, effects]) =>
    make("tr", {}, make("th", { scope: "row", title: name }, simple(name), make("div", { class: "tag" }, placed(where))), make("td", {}, tree), make("td", { class: "number" }, number(strain)), make("td", { class: "number" }, number(hard)), make("td", {}, effects.join(" ")))));
}

function shared() {
  return table(["type", "declared in", "made by hand in", "places", "used in"], data.shared.map((each) =>
    make("tr", {}, make("th", { scope: "row" }, each.name), make("td", {}, each.declared_in.join(", ")), make("td", {}, each.made_in.join(", ")), make("td", { class: "number" }, number(each.places)), make("td", {}, counted(each.used_in.length, "tree")))));
}

drawFleet();
