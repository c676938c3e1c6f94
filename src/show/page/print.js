/*
 * The printed form: the whole worksheet of the minibatch that is shown, stage by stage, with the
 * formula of every line; with an exercise, a box for each blank and all numbers that it needs, and the
 * answers on a page of their own.
 */

/** The most columns and rows side by side on paper, and the most numbers of a table that is printed whole. */
const paperRoom = {columns: 10, rows: 32, numbers: 480};

/** The parts of a table that are printed: bands of columns and rows; of a large one those with blanks,
    or the first. A picture without blanks is one part. */
function bandsOf(table) {
  const layout = new Layout(minibatch().tables[table]);
  if (layout.hasPictures && !hasBlank(table)) return [];
  const band = (count, most) => Array.from({length: Math.ceil(count / most)}, (_, at) => [at * most, Math.min(count, (at + 1) * most)]);
  const bands = band(layout.rows, paperRoom.rows).flatMap(rows =>
    band(layout.columns, paperRoom.columns).map(columns => ({rows, columns})));
  if (layout.rows * layout.columns <= paperRoom.numbers) return bands;
  const withBlanks = bands.filter(each => placesIn(layout, each).some(place => isHidden({table, place})));
  return withBlanks.length ? withBlanks : bands.slice(0, 1);
}

function placesIn(layout, {rows, columns}) {
  const places = [];
  for (let row = rows[0]; row < rows[1]; ++row) {
    for (let column = columns[0]; column < columns[1]; ++column) places.push(layout.place(row, column));
  }
  return places;
}

/** A table on paper, and what of it is there: adds the places to `seen`. */
function printedTables(table, seen) {
  const bands = bandsOf(table);
  const drawn = bands.length === 0 ? [numberTable(table)] : bands.map(printed => numberTable(table, {printed}));
  const layout = new Layout(minibatch().tables[table]);
  for (const band of bands) for (const place of placesIn(layout, band)) seen.add(`${table}:${place}`);
  for (const each of drawn) {
    for (const input of each.querySelectorAll("input")) input.replaceWith(make("span", {class: "box"}, `${input.placeholder} ________`));
  }
  return drawn;
}

/** How a gradient is made of those that come after it: the contributions of all lines that pass one on. */
function reverseFormula(table) {
  return minibatch().walk.filter(entry => entry.stage === "reverse")
    .flatMap(entry => entry.passed_on.filter(passed => passed.to === table).map(passed => passed.symbols)).join(" + ");
}

/** The title of a line with its formula. */
function printedTitle(entry) {
  const {line, name, title, stage, result} = entry;
  const heading = make("h3", {}, `${line}   `);
  const made = stage === "reverse" ? reverseFormula(result) : "";
  heading.append(title === name && !made ? title : symbolsAsMath(made ? `${name} = ${made}` : title));
  return heading;
}

/** How a new weight is made, and what the rule works out on the way to it: each for its first number. */
function updateFormulas({operands, result}) {
  return [...operands.filter(table => minibatch().tables[table].kind === "worked out"), result]
    .map(table => ({table, place: 0})).filter(formulaOf)
    .map(spot => make("div", {class: "formula"}, nameOf(spot), ...equation(formulaOf(spot), false)));
}

function printedEntry(entry, seen) {
  const tables = entry.stage === "update" ? [...entry.operands.slice(2), entry.result] : [entry.result];
  const formulas = entry.stage === "update" ? updateFormulas(entry) : [];
  return make("section", {}, printedTitle(entry), ...formulas,
              make("div", {class: "tables"}, ...tables.flatMap(table => printedTables(table, seen))));
}

/** What a blank needs and is not on paper yet: patches of pictures, and single numbers. */
function neededFor(blank, seen) {
  const formula = formulaOf(blank);
  const isSeen = spot => seen.has(`${spot.table}:${spot.place}`) || isHidden(spot) || tableOf(spot).kind === "setting";
  const patches = drawnPatchesOf(formula).filter(products => products.some(({met, by}) => !isSeen(met.spot) || !isSeen(by.spot)));
  const inPatches = patches.flat().flatMap(({met, by}) => [met.spot, by.spot]);
  const isThere = spot => inPatches.some(each => each.table === spot.table && each.place === spot.place);
  const missing = spotsIn(formula).filter(spot => !isSeen(spot) && !isThere(spot));
  if (!patches.length && !missing.length) return [];
  const grids = patches.map(products => make("div", {class: "patch"}, ...factorsOf(products)));
  const list = missing.map(spot => `${nameOf(spot)} = ${formatNumber(numberAt(spot))}`).join(", ");
  return [make("section", {}, make("h3", {}, told("needed", {blank: `▢${blanks.indexOf(blank) + 1}`, number: nameOf(blank)})),
               ...grids, ...(list ? [make("p", {}, list)] : []))];
}

/** The rule of the update and its constants. */
function printedRule() {
  const {rule, tables} = minibatch();
  if (!rule) return [];
  const settings = tables.filter(each => each.kind === "setting").map(each => `${each.name} = ${formatNumber(each.numbers[0])}`);
  return [make("p", {}, [rule, ...settings].join(" · "))];
}

function printedForm() {
  const title = data.exercise?.variant ? told("variant_of", {title: data.title, variant: data.exercise.variant}) : data.title;
  const sections = [make("h1", {}, title), make("p", {}, data.about.join(" · ")), ...printedRule()];
  for (const {step, spot, number} of changes.values()) {
    const before = formatNumber(stepNumbers[step].stored(spot.table)[spot.place]);
    sections.push(make("p", {}, told("from_to", {number: `${stepName(step)}: ${nameIn(step, spot)}`, before, now: formatNumber(number)})));
  }
  const seen = new Set();
  let stage = "";
  for (const entry of minibatch().walk) {
    if (entry.stage !== stage) {
      stage = entry.stage;
      sections.push(make("h2", {}, told(stage)));
    }
    sections.push(printedEntry(entry, seen));
  }
  const isExercise = blanks.length > 0 && shown.minibatch === 0;
  const needed = isExercise ? blanks.filter(isOpen).flatMap(blank => neededFor(blank, seen)) : [];
  if (needed.length) sections.push(make("h2", {}, told("also_needed")), ...needed);
  if (data.run) sections.push(make("h2", {}, told("the_run")), make("div", {class: "curves"}, ...curvesOf(data.run, data.references)));
  if (isExercise) sections.push(answers());
  return sections;
}

function answers() {
  const list = make("table");
  blanks.forEach((blank, at) => {
    list.append(make("tr", {}, make("th", {}, `▢${at + 1}`), make("td", {}, nameOf(blank)),
                     make("td", {}, formatNumber(numberAt(blank)))));
  });
  return make("section", {class: "answers"}, make("h2", {}, told("answers")), list);
}

window.addEventListener("beforeprint", () => {
  document.getElementById("printed").replaceChildren(...printedForm());
});
window.addEventListener("afterprint", () => {
  document.getElementById("printed").replaceChildren();
});
