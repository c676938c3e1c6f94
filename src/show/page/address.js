/*
 * Changes in the address of the page, to be shared, and in files. In the address, behind the place
 * that it opens at (start.js): `;1:W[0,0]=0.5` for a number of step 1, `;+3` for 3 steps taken here,
 * `;slide` for a slide.
 */

/** The name of a step in an address: its number, or for an answer its place. */
const stepKey = at => String(allSteps[at].step || `answer ${at + 1}`);

/** A number's name that no other of the step has. */
function addressOf(step, spot) {
  const tables = stepNumbers[step].tables();
  const {name, line} = tables[spot.table];
  const isAlone = tables.filter(each => each.name === name).length === 1;
  const place = nameIn(step, spot).slice(name.length);
  return isAlone ? name + place : `${name} of ${tables[line - 1].name}${place}`;
}

/** The spot with such a name in a step; undefined where there is none. */
function spotCalled(step, address) {
  const tables = stepNumbers[step].tables();
  const found = address.match(/^(.*?)(?:\[([\d,]*)\])?$/s);
  const table = tables.findIndex((each, at) => {
    const first = addressOf(step, {table: at, place: 0});
    return first.replace(/\[[\d,]*\]$/, "") === found[1];
  });
  if (table < 0) return undefined;
  const positions = found[2] === undefined ? [] : found[2].split(",").map(Number);
  const place = placeIn(tables[table], positions);
  return place === undefined ? undefined : {table, place};
}

/** A place by its positions; of flattened pictures by point, or as formulas count them. */
function placeIn(table, positions) {
  const fits = shape => positions.length === shape.length &&
    positions.every((at, axis) => Number.isInteger(at) && at >= 0 && at < shape[axis]);
  const shape = [table.shape, shapeInFormulas(table)].find(fits);
  return shape && positions.reduce((sum, at, axis) => sum * shape[axis] + at, 0);
}

/** The changes as a list that can be written down. */
const writtenChanges = () => [...changes.values()].map(({step, spot, number}) =>
  ({step: stepKey(step), number: addressOf(step, spot), value: number}));

/** Takes changes over that were written down, in place of those there are; gives how many of them fit
    this page. Where none does, all stays as it is. */
function takeChanges(list, taken) {
  const steps = data.steps.length;
  while (data.steps.length < data.shown + taken && canTakeStep()) addStep();
  const fitting = new Map();
  for (const {step, number, value} of list) {
    const at = data.steps.findIndex((_, each) => stepKey(each) === String(step));
    const spot = at < 0 || typeof value !== "number" ? undefined : spotCalled(at, String(number));
    const table = spot && stepNumbers[at].tables()[spot.table];
    const isFree = table && table.made === undefined && table.kind !== "gradient" && !table.is_fixed;
    if (!isFree || blanks.some(isOpen)) continue;
    fitting.set(changeKey(at, spot), {step: at, spot, number: value});
  }
  if (list.length > 0 && fitting.size === 0) {
    data.steps.length = steps;
    return 0;
  }
  changes.clear();
  for (const [key, change] of fitting) changes.set(key, change);
  return fitting.size;
}

/** What is taken from the address: the place to open at, and the changes. */
function readAddress() {
  const [place, ...rest] = location.hash.slice(1).split(";");
  const decoded = text => { try { return decodeURIComponent(text); } catch { return text; } };
  const list = [];
  let taken = 0;
  let isSlide = false;
  for (const each of rest.map(decoded)) {
    const [, step, number, value] = each.match(/^([^:]*):(.*)=([^=]*)$/s) ?? [];
    if (each === "slide") isSlide = true;
    else if (each.startsWith("+")) taken = Number.parseInt(each.slice(1), 10) || 0;
    else if (number !== undefined && parseTyped(value) !== null) list.push({step, number, value: parseTyped(value)});
  }
  return {place: decoded(place), list, taken, isSlide};
}

/** Puts the changes, and whether this is a slide, into the address. */
function keepAddress() {
  const taken = data.steps.length - data.shown;
  const parts = [...writtenChanges().map(({step, number, value}) => `${step}:${number}=${value}`), ...(taken ? [`+${taken}`] : []),
    ...(view.isSlide ? ["slide"] : [])];
  const [place] = location.hash.slice(1).split(";");
  const hash = [place, ...parts.map(encodeURIComponent)].join(";");
  if (hash === location.hash.slice(1)) return;
  try { history.replaceState(null, "", `#${hash}`); } catch { /* an address that cannot be changed */ }
}

function saveChanges() {
  saveAs("changes.json", {page: data.title, steps_taken: data.steps.length - data.shown, changes: writtenChanges()});
}

/** Offers JSON as a file. */
function saveAs(name, content) {
  const url = URL.createObjectURL(new Blob([JSON.stringify(content, null, 2)], {type: "application/json"}));
  make("a", {href: url, download: name}).click();
  URL.revokeObjectURL(url);
}

async function loadChanges(file) {
  let read;
  try { read = JSON.parse(await file.text()); } catch { read = null; }
  if (!Array.isArray(read?.changes)) {
    predicting.said = told("no_changes_in", {file: file.name});
  } else {
    const list = read.changes.filter(each => each !== null && typeof each === "object");
    const fitting = takeChanges(list, Number.isInteger(read.steps_taken) ? read.steps_taken : 0);
    predicting.said = told("loaded", {count: fitting, of: read.changes.length, file: file.name});
  }
  drawSteps();
  drawChanged();
  say(predicting.said);
}

function fileButtons() {
  const field = make("input", {type: "file", accept: ".json,application/json", class: "hidden-from-eyes", tabindex: "-1",
                               "aria-hidden": "true", onchange: event => loadChanges(event.target.files[0])});
  return [make("button", {type: "button", ...(changes.size ? {} : {disabled: ""}), onclick: saveChanges}, told("save_changes")),
          make("button", {type: "button", onclick: () => field.click()}, told("load_changes")), field];
}
