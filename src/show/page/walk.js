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
  placeBar.max = minibatch().walk.length - 1;
  drawFlow();
}

/** What passes through the layers in this minibatch, where there is more than one. */
function drawFlow() {
  const box = document.getElementById("flow");
  box.hidden = !hasFlow(minibatch().flow);
  if (!box.hidden) box.querySelector("div").replaceChildren(flowTable(minibatch().flow));
}

function numberTable(table, options) {
  return document.createElement("number-table").show(table, options);
}

/** The line that is being worked: operands, result, what it passes on. */
function drawDesk() {
  const entry = entryNow();
  const title = make("h2");
  title.append(entry.title === entry.name ? entry.name : symbolsAsMath(entry.title));
  const result = numberTable(entry.result);
  result.classList.add("result");
  if (entry.stage === "reverse") {
    const words = told("swept", {result: minibatch().result.name, line: entry.line});
    const behind = tablesBehind(entry.result).map(each => numberTable(each));
    desk.replaceChildren(title, sentence(words),
                         make("div", {class: "tables"}, result, ...behind),
                         ...passedOn(entry));
    return;
  }
  const words = entry.stage === "update" ? aboutUpdate(entry) : entry.operation;
  const operands = entry.operands.map(each => numberTable(each));
  desk.replaceChildren(title, sentence(words), ...augmentedIn(entry),
                       make("div", {class: "tables"}, result, ...operands));
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
  const {rule, result: loss, walk} = minibatch();
  const hidesLoss = blanks.some(blank => isOpen(blank) && tableOf(blank).name === loss.name && shown.minibatch === 0);
  const words = told("updated", {
    rule: [rule, note].filter(Boolean).join(" · "), loss: loss.name,
    before: hidesLoss ? "▢" : formatNumber(loss.before), after: formatNumber(loss.after),
  });
  return [words, walk.at(-1).verdict].filter(Boolean).join(" ");
}

function sentence(text) {
  return make("p", {class: "faint"}, text);
}

function passedOn(entry) {
  if (entry.note) return [sentence(entry.note)];
  return entry.passed_on.map(passed => {
    const gradient = minibatch().tables[passed.to].name;
    const words = make("p", {}, told("passed_on", {line: gradient.slice(1)}));
    words.append(symbolsAsMath(passed.symbols));
    const isShare = passed.share !== undefined;
    const note = isShare ? [sentence(told("one_share", {gradient}))] : [];
    const local = localDerivative(passed.local);
    const result = numberTable(passed.to, isShare ? {share: passed.share} : {});
    return make("div", {}, words, ...local.words, ...note,
                make("div", {class: "tables"}, ...local.tables, result));
  });
}

/** A square matrix that is no table of the worksheet. */
function plainTable(numbers) {
  const size = Math.sqrt(numbers.length);
  const rows = Array.from({length: size}, (_, row) =>
    make("tr", {}, ...numbers.slice(row * size, (row + 1) * size).map(number =>
      make("td", {}, formatNumber(asNumber(number))))));
  return make("table", {class: "plain"}, make("tbody", {}, ...rows));
}

/** By what that which arrives is multiplied on its way to an input, in words and in a table. */
function localDerivative(local) {
  if (!local) return {words: [], tables: []};
  if (local.passed_on) return {words: [sentence(told("local_passed_on"))], tables: []};
  if (local.everywhere !== undefined) {
    const number = formatNumber(local.everywhere);
    const words = local.count === 1 ? told("local_number", {number}) : told("local_everywhere", {number});
    return {words: [sentence(words)], tables: []};
  }
  if (local.matrix) {
    const words = local.each ? told("local_across_each", {each: local.each}) : told("local_across");
    return {words: [sentence(words)], tables: [plainTable(local.matrix)]};
  }
  if (local.factor === undefined) {
    const name = minibatch().tables[local.like].name.slice(1);
    const label = told("local_of", {name});
    return {words: [sentence(told("local_numbers"))],
            tables: [numberTable(local.like, {share: local.numbers, label})]};
  }
  const words = sentence(local.is_window ? told("local_window") : told("local_matrix"));
  words.append(symbolsAsMath(local.symbols));
  return {words: [words], tables: [numberTable(local.factor)]};
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
