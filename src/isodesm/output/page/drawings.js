/* Drawings: bars and curves as SVG, each with a title for those who don't see it. */

const PARTS = [
  ["hard-wired-creation", "created", "created"], ["static-singleton", "shared", "shared"], ["static-effect", "effects", "effects"],
  ["ambient-state", "ambient", "ambient"], ["service-lookup", "looked up", "looked"], ["borne", "borne", "borne"],
];

/* One bar of parts: [width share, class]. */
function bar(parts, width, height, title) {
  let left = 0;
  const pieces = parts.map(([share, kind]) => {
    const piece = draw("rect", { x: left.toFixed(1), y: 0, width: Math.max(share * width - 1, 0.5).toFixed(1), height, class: "fill-" + kind });
    left += share * width;
    return piece;
  });
  return draw("svg", { viewBox: `0 0 ${width} ${height}`, width, height, role: "img", "aria-label": title }, draw("title", {}, title), pieces);
}

function partsOf(strain, most, width) {
  const told = PARTS.filter(([kind]) => strain[kind]).map(([kind, label]) => `${label} ${number(strain[kind])}`).join(", ");
  return bar(PARTS.filter(([kind]) => strain[kind]).map(([kind, , fill]) => [strain[kind] / most, fill]), width, 14, "Strain: " + told);
}

function key() {
  return make("ul", { class: "key" }, PARTS.map(([, label, fill]) =>
    make("li", {}, draw("svg", { width: 11, height: 11, "aria-hidden": "true" }, draw("rect", { width: 11, height: 11, class: "fill-" + fill })), label)));
}

/* A curve from the first value to the last, both named; `labels` are what each point is called. */
function curve(values, labels, title, width = 560, height = 150) {
  const most = Math.max(...values, 1), left = 44, right = 40, top = 14, bottom = 26;
  const x = (index) => left + (values.length > 1 ? index / (values.length - 1) : 0.5) * (width - left - right);
  const y = (value) => top + (1 - value / most) * (height - top - bottom);
  const line = values.map((value, index) => `${index ? "L" : "M"}${x(index).toFixed(1)} ${y(value).toFixed(1)}`).join(" ");
  const last = values.length - 1;
  return draw("svg", { viewBox: `0 0 ${width} ${height}`, width, height, role: "img", "aria-label": title }, draw("title", {}, title),
    draw("path", { class: "rule", d: `M${left} ${top}V${height - bottom}H${width - right}` }),
    draw("text", { x: left - 6, y: top + 5, "text-anchor": "end", class: "faint" }, number(most)),
    draw("text", { x: left - 6, y: height - bottom + 4, "text-anchor": "end", class: "faint" }, "0"),
    draw("path", { class: "curve", d: line }),
    values.map((value, index) => draw("circle", { class: "dot", cx: x(index).toFixed(1), cy: y(value).toFixed(1), r: values.length > 40 ? 1.5 : 3 },
      draw("title", {}, `${labels[index]}: ${number(value)}`))),
    draw("text", { x: x(last) + 7, y: y(values[last]) + 4 }, number(values[last])),
    draw("text", { x: left, y: height - 8, class: "faint" }, labels[0]),
    draw("text", { x: width - right, y: height - 8, "text-anchor": "end", class: "faint" }, labels[last]));
}
