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
  revealAsked();
  say(isHidden(spot) ? told("is_blank", {number: nameOf(spot)})
      : told("is", {number: nameOf(spot), value: formatNumber(numberAt(spot))}));
}

/** Moves the tables so that the number that is asked about is seen, and marks it. */
function revealAsked() {
  for (const table of document.querySelectorAll("#desk number-table")) {
    if (table.table === shown.asked.table) table.reveal(shown.asked.place);
  }
  markUsed();
  drawNetwork();
  if (view.isSlide) fitSlide();
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
  const {note, shape, roles, name} = tableOf(spot);
  const [first, second] = indexOf(shape, spot.place);
  const className = shape.length === 1 && !isHidden(spot) ? calledAt("class", numberAt(spot)) : "";
  for (const noteFor of notesOfSubjects) {
    const own = noteFor(spot);
    if (own) return own;
  }
  return filled(note, {
    row: minibatch().rows[first], node: calledAt("node", first) || first,
    column: calledAt(roles[1], second), target: calledAt("target", 0),
    class: className && told("of_class", {name: className}), augmented: minibatch().augmented[first],
  });
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
    const name = math("math", math("mtext", told("with")), writer.shortName(short));
    rows.push(row(name, " ", ...spaced(new FormulaWriter(filledIn, allTerms).write(short.meaning))));
  }
  return rows;
}

function hasLongList(formula) {
  if (!Array.isArray(formula)) return false;
  return formula.length > 7 || formula.some(hasLongList);
}

/** The arithmetic behind the number that is asked about, and what it is changed with. */
function drawWhy() {
  whyPane.replaceChildren(make("div", {}, make("div"), control.box));
  drawAnswer();
  drawExercise(whyPane);
}

function drawAnswer() {
  const pane = make("div");
  drawTrail(pane);
  drawArithmetic(pane, shown.asked);
  whyPane.firstChild.firstChild.replaceWith(pane);
  drawControl();
}

function drawTrail(pane) {
  if (shown.trail.length < 2) return;
  const trail = make("div", {class: "trail", "aria-label": told("way_here")});
  shown.trail.slice(0, -1).slice(-5).forEach((spot, at, part) => {
    const place = shown.trail.length - 1 - part.length + at;
    trail.append(make("button", {type: "button", onclick: () => goBackTo(place)}, nameOf(spot)), "›");
  });
  pane.append(trail);
}

/** What kinds of data draw beside a number, and say of one that is not calculated: functions of it. */
const besideNumber = [];
const notesOfSubjects = [];
const drawBeside = spot => besideNumber.flatMap(draw => draw(spot));

/** Where a number stands, by the names along its axes. */
function placeInWords({table, place}) {
  const content = minibatch().tables[table];
  return indexOf(content.shape, place)
    .map((at, axis) => `${content.roles[axis] ? `${content.roles[axis]} ` : ""}${axisLabel(content, axis, at)}`).join(", ");
}

/** What a gradient says of the number that it belongs to: what a small change of that would do. */
function meaningOfGradient(spot) {
  const gradient = numberAt(spot);
  if (!Number.isFinite(gradient)) return "";
  const number = nameOf(spot).slice(1);
  const {result} = minibatch();
  if (gradient === 0) return told("means_nothing", {number, result});
  const step = Math.min(0.001, 10 ** Math.floor(-1 - Math.log10(Math.abs(gradient))));
  const words = {number, result, step: formatNumber(step), change: formatNumber(Math.abs(step * gradient), 3)};
  return told(gradient > 0 ? "means_rise" : "means_fall", words);
}

/** Why an update raises a weight, or lowers it, where its gradient says so. */
function meaningOfUpdate({table, place}) {
  const {line} = minibatch().tables[table];
  const gradients = minibatch().tables.findIndex(each => each.kind === "gradient" && each.line === line);
  if (gradients < 0 || isHidden({table: gradients, place})) return "";
  const gradient = numberAt({table: gradients, place});
  const change = numberAt({table, place}) - numberAt({table: line - 1, place});
  const {result} = minibatch();
  if (gradient < 0 && change > 0) return told("raises", {result});
  return gradient > 0 && change < 0 ? told("lowers", {result}) : "";
}

/** What a number means, in a sentence; empty where there is none. */
function meaningOf(spot) {
  const {kind} = tableOf(spot);
  if (isHidden(spot)) return "";
  return kind === "gradient" ? meaningOfGradient(spot) : kind === "after" ? meaningOfUpdate(spot) : "";
}

function drawArithmetic(pane, spot) {
  const formula = formulaOf(spot);
  const help = isHidden(spot) ? hintsFor(spot) : 3;
  const value = help >= 3 ? ` = ${formatNumber(numberAt(spot))}` : "";
  const said = saidOfChange(spot);
  const place = placeInWords(spot);
  pane.append(make("h2", {}, nameOf(spot), make("span", {class: "gives"}, value)),
              ...(place ? [make("span", {class: "place"}, ` ${place}`)] : []),
              ...(said ? [make("span", {class: "was"}, ` ${said}`)] : []));
  if (formula === null) {
    pane.append(make("p", {}, noteOn(spot)), ...drawBeside(spot));
    return;
  }
  if (help >= 1) pane.append(...equation(formula, false));
  if (help >= 2) pane.append(...equation(formula, true));
  if (help === 0) pane.append(make("p", {}, told("left_blank")));
  const meaning = meaningOf(spot);
  if (meaning) pane.append(make("p", {class: "meaning"}, meaning));
  const {worked} = tableOf(spot);
  if (help >= 2 && worked && !isAsWorked(spot)) pane.append(sentence(`(${worked})`));
  if (help >= 1 && hasLongList(formula)) {
    const turn = () => { allTerms = !allTerms; drawWhy(); };
    pane.append(make("button", {type: "button", onclick: turn}, told(allTerms ? "fewer_terms" : "every_term")));
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
  const rest = spots.length > most ? [make("span", {class: "faint"}, told("and_more", {count: spots.length - most}))] : [];
  return [make("div", {class: "sources"}, make("span", {class: "faint"}, told("made_from")), ...buttons, ...rest)];
}
