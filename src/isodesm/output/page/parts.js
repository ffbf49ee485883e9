"use strict";
/* The small pieces that everything else is built from. Texts only ever become text nodes: nothing of the tree is markup. */

const data = JSON.parse(document.getElementById("data").textContent);
const SVG = "http://www.w3.org/2000/svg";
const NAMES = {
  java: "Java", csharp: "C#", typescript: "TypeScript/JavaScript", php: "PHP", python: "Python",
};
/* Where signs that turn the direction of text, or can't be seen, would mislead: they are shown as what they are. */
const HIDDEN = /[\u0000-\u0008\u000b-\u001f\u007f-\u009f\u200b-\u200f\u202a-\u202e\u2060-\u2069\ufeff]/g;

function shown(value) {
  return String(value).replace(HIDDEN, (sign) => "\\u" + sign.charCodeAt(0).toString(16).padStart(4, "0"));
}

function make(tag, given = {}, ...children) {
  const node = document.createElement(tag);
  return filled(node, given, children);
}

function draw(tag, given = {}, ...children) {
  const node = document.createElementNS(SVG, tag);
  return filled(node, given, children);
}

function filled(node, given, children) {
  for (const [name, value] of Object.entries(given)) {
    if (name === "on") for (const [event, act] of Object.entries(value)) node.addEventListener(event, act);
    else if (value !== false && value !== undefined) node.setAttribute(name, value === true ? "" : shown(value));
  }
  for (const each of children.flat(Infinity)) {
    if (each === "" || each === null || each === undefined || each === false) continue;
    node.append(each instanceof Node ? each : document.createTextNode(shown(each)));
  }
  return node;
}

function fill(node, ...children) {
  node.replaceChildren();
  return filled(node, {}, children);
}

/* Words in which names stand between backticks, as they stand in the program's messages. */
function worded(text) {
  return String(text).split("`").map((part, index) => index % 2 ? make("code", {}, part) : part);
}

/* A path, which may be broken behind its folders. */
function placed(text) {
  return String(text).split("/").flatMap((part, index, all) => index < all.length - 1 ? [part + "/", document.createElement("wbr")] : [part]);
}

function number(value) {
  return (Math.round(value * 100) / 100).toLocaleString("en");
}

function counted(count, one, many) {
  return number(count) + " " + (count === 1 ? one : many || one + "s");
}

function simple(name) {
  return name.replace(/[\\#/]/g, ".").split(".").pop() || name;
}

function sum(values) {
  return values.reduce((one, other) => one + other, 0);
}

/* What is shown of several languages: all, or the one that was chosen. */
const chosen = { language: "" };

function ofLanguage(language) {
  return !chosen.language || chosen.language === language;
}

/* Names come from the tree and may be those of what every object has: only what is the record's own counts. */
function own(record, name) {
  return record !== undefined && Object.hasOwn(record, name) ? record[name] : undefined;
}

function opener(name, text) {
  const known = own(data.dossiers, name) || data.classes.some((row) => row[0] === name);
  if (!known) return make("span", {}, text || simple(name));
  return make("button", { type: "button", class: "link", title: name, on: { click: () => openDossier(name) } }, text || simple(name));
}
