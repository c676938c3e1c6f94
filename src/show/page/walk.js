/** The stages that there are: where nothing is learnt, there is no update. */
const stages = ["forward", "loss", "reverse", "update"]
  .filter(stage => data.steps.some(step => step.walk.some(entry => entry.stage === stage)));
const desk = document.getElementById("desk");
const placeBar = document.getElementById("place");

const entryNow = () => minibatch().walk[shown.entry];

function goTo(at) {
  shown.entry = Math.max(0, Math.min(at, minibatch().walk.length - 1));
  redraw();
  const entry = entryNow();
  ask({table: entry.result, place: firstToAsk(entry.result)}, true);
  say(told("at_entry", {...entry, stage: told(entry.stage)}));
}

/** The first number that is not left blank. */
function firstToAsk(table) {
  const count = minibatch().tables[table].numbers.length;
  for (let place = 0; place < count; ++place) {
    if (!isHidden({table, place})) return place;
  }
  return 0;
}

/** Next line; after the last, to the first line of the next minibatch. */
function goOn() {
  if (shown.entry < minibatch().walk.length - 1) goTo(shown.entry + 1);
  else if (shown.minibatch < data.steps.length - 1) goToMinibatch(shown.minibatch + 1, 0);
}

/** One line back; before the first, to the last line of the minibatch before. */
function goBack() {
  if (shown.entry > 0) goTo(shown.entry - 1);
  else if (shown.minibatch > 0) goToMinibatch(shown.minibatch - 1, Infinity);
}

function goToStage(stage) {
  const at = minibatch().walk.findIndex(entry => entry.stage === stage);
  if (at >= 0) goTo(at);
}

function goToMinibatch(at, entry = shown.entry) {
  shown.minibatch = at;
  drawSheet();
  goTo(entry);
  drawBar();
  drawPlaneSoon();
}

/** The list of all lines, on ruled paper. */
function drawSheet() {
  const list = make("ol");
  let heading = "";
  minibatch().walk.forEach((entry, at) => {
    if (entry.heading !== heading) {
      heading = entry.heading;
      if (heading) list.append(make("h3", {}, heading));
    }
    list.append(make("li", {"data-at": at},
      make("button", {type: "button", onclick: () => goTo(at), title: entry.title},
           make("span", {class: "number"}, String(entry.line)),
           make("span", {class: "what"}, entry.title))));
  });
  document.getElementById("sheet").replaceChildren(list);
  markLines();
  placeBar.max = minibatch().walk.length - 1;
  drawFlow();
}

/** What passes through the layers with the numbers that are shown now, as the command works it of its own
    (look_through.cpp). */
function flowNow(layers) {
  const {tables, walk} = minibatch();
  const find = (kind, name) => tables.findIndex(each => each.kind === kind && each.name === name);
  const numbersOf = at => (at < 0 ? [] : numbersNow().now(at));
  const norm = numbers => Math.sqrt(numbers.reduce((sum, each) => sum + each * each, 0));
  /** For each unit whether any number of it is not 0. */
  const speaks = (numbers, units) => {
    const heard = new Array(units).fill(false);
    numbers.forEach((each, at) => { if (each !== 0) heard[at % units] = true; });
    return heard;
  };
  return layers.map(({layer, learns}) => {
    const value = find("value", layer);
    const numbers = numbersOf(value);
    const mean = numbers.reduce((sum, each) => sum + each, 0) / numbers.length;
    const own = `∂${layer}.`;
    const weights = tables.flatMap(({kind, name}, at) =>
      kind === "gradient" && name.startsWith(own) && !name.slice(own.length).includes(".") &&
      tables[find("value", name.slice(1))].made === undefined ? [...numbersOf(at)] : []);
    const gradient = numbersOf(find("gradient", `∂${layer}`));
    // An activation learns by what comes into it.
    const into = tables[walk.find(entry => entry.result === value)?.operands[0]];
    const hasOthersInside = layers.some(other => other.layer.startsWith(`${layer}.`));
    const isActivation = !weights.length && !hasOthersInside && into?.shape.join() === tables[value].shape.join();
    const before = isActivation ? numbersOf(find("gradient", `∂${into.name}`)) : [];
    const units = tables[value].shape.at(-1) ?? 1;
    const reached = speaks(before.length ? before : gradient, units);
    const dead = speaks(numbers, units).filter((isHeard, unit) => !isHeard && !reached[unit]).length;
    return {layer, learns, standard_deviation: Math.sqrt(numbers.reduce((sum, each) => sum + (each - mean) ** 2, 0) / numbers.length),
            gradient_norm: norm(gradient), weight_gradient_norm: norm(weights), dead: gradient.length ? dead / units : 0};
  });
}

/** What passes through the layers in this minibatch, where there is more than one. */
function drawFlow() {
  const box = document.getElementById("flow");
  const layers = minibatch().flow ?? data.steps.find(each => each.flow)?.flow;
  box.hidden = !layers || !hasFlow(layers);
  if (box.hidden) return;
  const isAsItWas = minibatch().flow !== undefined && numbersNow().changed.size === 0;
  box.querySelector("div").replaceChildren(flowTable(isAsItWas ? layers : flowNow(layers)));
}

function numberTable(table, options) {
  return document.createElement("number-table").show(table, options);
}

/** The line that is being worked: operands, result, what it passes on. */
function drawDesk() {
  const entry = entryNow();
  const title = make("h2", {"aria-label": entry.title});
  title.append(entry.title === entry.name ? entry.name : symbolsAsMath(entry.title));
  const result = numberTable(entry.result);
  result.classList.add("result");
  if (entry.stage === "reverse") {
    const words = told("swept", {result: minibatch().result, line: entry.line});
    const behind = tablesBehind(entry.result).map(each => numberTable(each));
    desk.replaceChildren(title, aboutLine(words),
                         make("div", {class: "tables"}, result, ...tablesBeside(entry.result), ...behind),
                         ...(view.isSlide ? [] : passedOn(entry)));
    return;
  }
  const words = entry.stage === "update" ? aboutUpdate(entry) : entry.operation;
  // A slide has what the number is made from, wherever that stands.
  const beside = view.isSlide ? tablesBehind(entry.result) : entry.operands;
  const operands = beside.map(each => numberTable(each));
  desk.replaceChildren(title, aboutLine(words), ...augmentedIn(entry),
                       make("div", {class: "tables"}, result, ...tablesBeside(entry.result), ...operands));
}

/** How each example is augmented, where a line is about that. */
function augmentedIn({result, operands}) {
  const {augmented, drawn, tables} = minibatch();
  if (!augmented.length || ![result, ...operands].some(each => tables[each].name === drawn)) return [];
  const items = augmented.map((words, example) =>
    make("li", {}, make("b", {}, told("example", {number: example})), words));
  return [make("ul", {class: "augmented"}, ...items)];
}

/** The rule of the update, and what all of it does to the loss. */
function aboutUpdate({note}) {
  const {rule, result, tables} = minibatch();
  const settings = tables.filter(each => each.kind === "setting").map(each => `${each.name} ${formatNumber(each.numbers[0])}`);
  const factor = tables.findLast(each => each.kind === "worked out" && each.line === 0);
  const clipped = factor && factor.numbers[0] !== 1 ? told("clipped", {factor: formatNumber(factor.numbers[0])}) : "";
  const spot = resultSpot();
  const [before, after] = [numberAt(spot), resultAfter()];
  const words = told("updated", {
    rule: [rule, ...settings, clipped, note].filter(Boolean).join(" · "), loss: result,
    before: isHidden(spot) ? "▢" : formatNumber(before), after: formatNumber(after),
  });
  return [words, verdictOn(before, after)].filter(Boolean).join(" ");
}

/** The result with all updates made: as the command has it, or worked here. */
function resultAfter() {
  const {after} = minibatch();
  const isAsItWas = after !== undefined && after !== null && numbersNow().changed.size === 0;
  return isAsItWas ? asNumber(after) : numbersNow().after();
}

/** What there is to say where the result has not fallen. */
function verdictOn(before, after) {
  const {verdict} = minibatch();
  if (verdict !== undefined && numbersNow().changed.size === 0) return verdict;
  if (after < before) return "";
  if (!Number.isFinite(before)) return "";
  return told(!Number.isFinite(after) ? "not_finite" : after > before ? "rose" : "stayed");
}

function sentence(text) {
  return make("p", {class: "faint"}, text);
}

/** What there is to say of the line, and the terms that it is about. */
const aboutLine = text => make("p", {class: "faint"}, text, make("span", {class: "terms"}, ...termsBesideLine()));

function passedOn(entry) {
  if (entry.note) return [sentence(entry.note)];
  return entry.passed_on.map(passed => {
    const gradient = minibatch().tables[passed.to].name;
    const words = make("p", {}, told("passed_on", {line: gradient.slice(1)}));
    words.append(symbolsAsMath(passed.symbols));
    const isShare = passed.is_share;
    const note = isShare ? [sentence(told("one_share", {gradient}))] : [];
    const local = localDerivative(passed, entry);
    const result = numberTable(passed.to, isShare ? {share: shareOf(passed)} : {});
    return make("div", {}, words, ...local.words, ...note,
                make("div", {class: "tables"}, ...local.tables, result));
  });
}

/** A square matrix that is no table of the worksheet. */
function plainTable(numbers) {
  const size = Math.sqrt(numbers.length);
  const rows = Array.from({length: size}, (_, row) =>
    make("tr", {}, ...numbers.slice(row * size, (row + 1) * size).map(number =>
      make("td", {}, formatNumber(number)))));
  return make("table", {class: "plain"}, make("tbody", {}, ...rows));
}

/** What one use of a line contributes to the gradient of an input.
 *  @param arriving what arrives there, if not what stands in the table */
function shareOf({to, by}, entry, arriving) {
  const numbersOf = at => (arriving !== undefined && at === entry.result ? arriving : numbersNow().now(at));
  return numbersNow().workedBy(by, shapeInFormulas(minibatch().tables[to]), numbersOf);
}

/** How the first row of a result along an axis changes with that of the input, ∂yᵢ/∂xⱼ in row i and
    column j: what is passed on when 1 arrives at one number, and nothing at the others. */
function firstMatrix(passed, entry) {
  const {across} = passed.local;
  const shape = shapeInFormulas(minibatch().tables[entry.result]);
  const step = stepsOf(shape)[across];
  const count = shape.reduce((product, extent) => product * extent, 1);
  return Array.from({length: shape[across]}, (_, row) => {
    const slopes = shareOf(passed, entry, emptyNumbers(count).fill(1, row * step, row * step + 1));
    return Array.from({length: shape[across]}, (__, column) => slopes[column * step]);
  }).flat();
}

/** By what that which arrives is multiplied on its way to an input, in words and in a table. */
function localDerivative(passed, entry) {
  const {local} = passed;
  if (!local) return {words: [], tables: []};
  if (local.across !== undefined) {
    const words = local.each ? told("local_across_each", {each: local.each}) : told("local_across");
    return {words: [sentence(words)], tables: [plainTable(firstMatrix(passed, entry))]};
  }
  if (local.factor !== undefined) {
    const words = sentence(local.is_window ? told("local_window") : told("local_matrix"));
    words.append(symbolsAsMath(local.symbols));
    return {words: [words], tables: [numberTable(local.factor)]};
  }
  const numbers = local.everywhere !== undefined ? emptyNumbers(local.count).fill(local.everywhere)
    : numbersNow().workedBy(local.made, shapeInFormulas(minibatch().tables[local.like]), at => numbersNow().now(at));
  if (Number.isFinite(numbers[0]) && numbers.every(each => each === numbers[0])) {
    const number = formatNumber(numbers[0]);
    const words = numbers.length === 1 ? told("local_number", {number}) : told("local_everywhere", {number});
    return {words: [sentence(words)], tables: []};
  }
  const arriving = numbersNow().now(entry.result);
  if (arriving.length === 1 && arriving[0] === 1) return {words: [sentence(told("local_passed_on"))], tables: []};
  const label = told("local_of", {name: minibatch().tables[local.like].name.slice(1)});
  return {words: [sentence(told("local_numbers"))], tables: [numberTable(local.like, {share: numbers, label})]};
}

/** Draws everything anew for the place where we are. */
function redraw() {
  drawDesk();
  placeBar.value = shown.entry;
  const entry = entryNow();
  placeBar.setAttribute("aria-valuetext", told("at_entry", {...entry, stage: told(entry.stage)}));
  for (const item of document.querySelectorAll("#sheet li")) {
    const at = Number(item.dataset.at);
    item.toggleAttribute("data-now", at === shown.entry);
    item.toggleAttribute("data-ahead", at > shown.entry);
    const button = item.querySelector("button");
    button.setAttribute("aria-current", at === shown.entry);
    if (at === shown.entry) keepInView(item);
  }
  for (const button of document.querySelectorAll("#stages button")) {
    button.setAttribute("aria-pressed", button.dataset.stage === entry.stage);
  }
  for (const button of document.querySelectorAll("#minibatches button")) {
    button.setAttribute("aria-pressed", Number(button.dataset.at) === shown.minibatch);
  }
  document.getElementById("back").disabled = shown.entry === 0 && shown.minibatch === 0;
  document.getElementById("on").disabled = shown.entry === minibatch().walk.length - 1 &&
    shown.minibatch === data.steps.length - 1;
}

/** Scrolls the worksheet, and nothing else. */
function keepInView(item) {
  const pane = document.getElementById("sheet");
  const top = item.offsetTop - pane.offsetTop;
  if (top < pane.scrollTop || top + item.offsetHeight > pane.scrollTop + pane.clientHeight) {
    pane.scrollTop = top - pane.clientHeight / 3;
  }
}
