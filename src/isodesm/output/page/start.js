/* Begins: one view at a time on the screen, all of them on paper. */

const drawn = new Set();

function show(id) {
  const view = VIEWS.find((each) => each[0] === id) || VIEWS[0];
  for (const [name] of VIEWS) {
    document.getElementById(name + "-view").hidden = name !== view[0];
    const link = document.querySelector(`nav a[href="#${name}"]`);
    name === view[0] ? link.setAttribute("aria-current", "page") : link.removeAttribute("aria-current");
  }
  if (!drawn.has(view[0])) { view[2](); drawn.add(view[0]); }
}

function drawAll() {
  for (const [name, , drawIt] of VIEWS) if (!drawn.has(name)) { drawIt(); drawn.add(name); }
  for (const each of document.querySelectorAll("details")) each.open = true;
}

fill(document.getElementById("views"), VIEWS.map(([name, label]) => make("li", {}, make("a", { href: "#" + name }, label))));
if (data.languages.length > 1) {
  fill(document.getElementById("languages"), make("label", {}, "Language", make("select", { id: "language", on: { change: (event) => {
    chosen.language = event.target.value;
    drawn.delete("front");
    drawn.delete("classes");
    show(location.hash.slice(1));
  } } }, make("option", { value: "" }, "all"), data.languages.map(([name]) => make("option", { value: name }, NAMES[name] || name)))));
}
addEventListener("hashchange", () => { document.getElementById("dossier").close(); show(location.hash.slice(1)); document.getElementById("main").focus({ preventScroll: true }); scrollTo(0, 0); });
addEventListener("beforeprint", drawAll);
show(location.hash.slice(1));
