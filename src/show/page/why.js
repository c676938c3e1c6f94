const whyPane = document.getElementById("why");
let allTerms = false;

/** Asks a number where it came from. Following adds to the trail; asking afresh starts another. */
function ask(spot, afresh = false) {
  if (afresh) shown.trail = [];
  shown.trail.push(spot);
  shown.asked = spot;
  allTerms = false;
  // Whoever follows a number goes to where the numbers behind it can be seen.
  const isFar = !tablesBehind(spot.table).every(isOnDesk);
  if (!isOnDesk(spot.table) || (!afresh && isFar)) followTo(spot.table);
  drawWhy();
  for (const table of document.querySelectorAll("#desk number-table")) {
    if (table.table === spot.table) table.reveal(spot.place);
  }
  markUsed();
  const value = isHidden(spot) ? "is left blank" : `is ${formatNumber(numberAt(spot))}`;
  say(`${nameOf(spot)} ${value}`);
}

function isOnDesk(table) {
  return [...document.querySelectorAll("#desk number-table")].some(each => each.table === table);
}

/** Goes to the line that a number stands on, when it is elsewhere. */
function followTo(table) {
  const entry = minibatch().walk.findIndex(each => each.result === table);
  if (entry < 0) return;
  shown.entry = entry;
  redraw();
}

function goBackTo(at) {
  const spot = shown.trail[at];
  shown.trail = shown.trail.slice(0, at);
  ask(spot);
}

/** Why a number that was not calculated is there. */
function noteOn(spot) {
  const {kind, given, line, name} = tableOf(spot);
  if (kind === "gradient") return "The sweep starts here: ∂x/∂x = 1.";
  if (kind === "setting") return "A setting of the update rule.";
  if (kind === "remembered") return "What the rule remembered from the updates before.";
  if (given === "running statistic") return "A running statistic: its start value, or its value after the last step.";
  if (!given.startsWith("given")) return "A weight: its start value, or its value after the last update.";
  const {shape, roles} = tableOf(spot);
  const [example, column] = indexOf(shape, spot.place);
  const row = minibatch().rows[example];
  const {augmented, drawn} = minibatch();
  if (drawn && name === drawn) return `Drawn for row ${row} in this epoch: ${augmented[example]}.`;
  if (roles[0] === "node" && roles[1] === "node") {
    return numberAt(spot) === 0 ? `${calledAt("node", example)} is not joined with ${calledAt("node", column)}.`
      : `${calledAt("node", example)} takes from ${calledAt("node", column)}.`;
  }
  const ofNode = roles[0] === "node" ? `Given: node ${calledAt("node", example) || example}, column ` : "";
  const ofData = ofNode ? ofNode : row === undefined ? "Given: column " : `Given: row ${row} of the data, column `;
  const isTruth = name === "y" || name === "y_raw";
  if (isTruth && shape.length === 1) {
    const className = calledAt("class", numberAt(spot));
    const meaning = className && !isHidden(spot) ? `: class ${className}` : "";
    return `${ofData}${calledAt("target", 0)}${meaning}.`;
  }
  if ((isTruth || name === "x" || name === "raw") && calledAt(roles[1], column)) {
    return `${ofData}${calledAt(roles[1], column)}.`;
  }
  return `Given: it is data, not calculated (line ${line}).`;
}

function row(...content) {
  return make("div", {class: "row"}, ...content);
}

function spaced(pieces) {
  return pieces.flatMap(piece => [piece, " "]);
}

function equation(formula, filledIn) {
  const writer = new FormulaWriter(filledIn, allTerms);
  const rows = [row(...spaced(writer.write(formula)))];
  for (const short of writer.shorthands.values()) {
    const name = math("math", math("mtext", "with\u00a0"), writer.shortName(short));
    rows.push(row(name, " ", ...spaced(new FormulaWriter(filledIn, allTerms).write(short.meaning))));
  }
  return rows;
}

function hasLongList(formula) {
  if (!Array.isArray(formula)) return false;
  return formula.length > 7 || formula.some(hasLongList);
}

/** The arithmetic behind the number that is asked about. */
function drawWhy() {
  const pane = make("div");
  drawTrail(pane);
  drawArithmetic(pane, shown.asked);
  whyPane.replaceChildren(pane);
  drawExercise(whyPane);
}

function drawTrail(pane) {
  if (shown.trail.length < 2) return;
  const trail = make("div", {class: "trail", "aria-label": "The way here"});
  shown.trail.slice(0, -1).slice(-5).forEach((spot, at, part) => {
    const place = shown.trail.length - 1 - part.length + at;
    trail.append(make("button", {type: "button", onclick: () => goBackTo(place)}, nameOf(spot)), "›");
  });
  pane.append(trail);
}

/** What kinds of data draw beside a number: functions of it. */
const besideNumber = [];
const drawBeside = spot => besideNumber.flatMap(draw => draw(spot));

function drawArithmetic(pane, spot) {
  const formula = formulaOf(spot);
  const help = isHidden(spot) ? hintsFor(spot) : 3;
  const value = help >= 3 ? ` = ${formatNumber(numberAt(spot))}` : "";
  pane.append(make("h2", {}, nameOf(spot), make("span", {class: "gives"}, value)));
  if (formula === null) {
    pane.append(make("p", {}, noteOn(spot)), ...drawBeside(spot));
    return;
  }
  if (help >= 1) pane.append(...equation(formula, false));
  if (help >= 2) pane.append(...equation(formula, true));
  if (help === 0) pane.append(make("p", {}, "Left blank: work it out, type it in its place, and press Enter."));
  if (help >= 1 && hasLongList(formula)) {
    const turn = () => { allTerms = !allTerms; drawWhy(); };
    pane.append(make("button", {type: "button", onclick: turn}, allTerms ? "fewer terms" : "every term"));
  }
  if (help >= 2) pane.append(...drawPatches(formula), ...sourcesOf(formula));
  pane.append(...drawBeside(spot));
}

/** The numbers in a formula, to follow them; those of patches are followed there. */
function sourcesOf(formula) {
  const inPatches = drawnPatchesOf(formula).flat().flatMap(({met, by}) => [met.spot, by.spot]);
  const isThere = spot => inPatches.some(each => each.table === spot.table && each.place === spot.place);
  const spots = spotsIn(formula).filter(spot => !isThere(spot));
  if (!spots.length) return [];
  const most = allTerms ? spots.length : 16;
  const buttons = spots.slice(0, most).map(each => {
    const value = isHidden(each) ? `▢${blankNumber(each)}` : formatNumber(numberAt(each));
    return make("button", {type: "button", onclick: () => ask(each)}, `${nameOf(each)} = ${value}`);
  });
  const rest = spots.length > most ? [make("span", {class: "faint"}, `and ${spots.length - most} more`)] : [];
  return [make("div", {class: "sources"}, make("span", {class: "faint"}, "made from"), ...buttons, ...rest)];
}
