/*
 * Numbers that are changed: by typing, dragging or with the arrow keys. All that depends on them
 * follows at once (recalculate.js), with marks where a number is another than it was.
 */
const bar = document.getElementById("changes");

/** How long everything may take to be worked again while a number is dragged, in milliseconds. */
const atOnce = 150;

/** Why a number cannot be changed; empty where it can. */
function whyFixed(spot) {
  const {made, kind, is_fixed: isFixed, is_cut_short: isCutShort} = tableOf(spot);
  if (made !== undefined || kind === "gradient") return told("is_calculated");
  if (blanks.some(isOpen)) return told("blanks_first");
  if (isFixed) return told("is_written_for");
  if (isCutShort && isMissing(spot)) return told("is_left_out");
  return "";
}

const storedAt = spot => numbersNow().stored(spot.table)[spot.place];
const changeOf = spot => changes.get(changeKey(shown.minibatch, spot));
const isOwnChange = spot => changeOf(spot) !== undefined;

/** The place of a result among the tables of a step; undefined where it is not one number. */
function resultSpot() {
  const table = minibatch().tables.findIndex(each => each.kind === "value" && each.name === minibatch().result);
  return table >= 0 && numbersNow().now(table).length === 1 ? {table, place: 0} : undefined;
}

/** Sets a number, or puts it back where it is what it was; works everything again and draws it. */
function setNumber(spot, number) {
  const key = changeKey(shown.minibatch, spot);
  changes.delete(key);
  if (!isSame(number, storedAt(spot)) || isCarried(spot)) changes.set(key, {step: shown.minibatch, spot, number});
  drawChanged();
}

/** Whether a number is another already by what was changed in a step before. */
function isCarried({table, place}) {
  const numbers = numbersNow();
  const source = numbers.sourceOf(table);
  const earlier = source === null ? undefined : numbers.before.changed.get(source);
  return earlier !== undefined && !isSame(earlier[place], numbers.before.stored(source)[place]);
}

function putBack(key) {
  changes.delete(key);
  drawChanged();
}

/** Puts back the number that is asked about, if it was changed; else the one that was changed last. */
function putBackOne() {
  const key = shown.asked && isOwnChange(shown.asked) ? changeKey(shown.minibatch, shown.asked) : [...changes.keys()].at(-1);
  if (key !== undefined) putBack(key);
}

function putBackAll() {
  changes.clear();
  drawChanged();
}

/** Works everything again, and draws what is seen of it. */
function drawChanged() {
  workAgain();
  drawDesk();
  drawFlow();
  drawAnswer();
  revealAsked();
  markLines();
  drawBar();
  drawProgress();
  drawPlaneSoon();
  keepAddress();
}

/** Marks the lines of the worksheet on which anything is another than it was. */
function markLines() {
  for (const item of document.querySelectorAll("#sheet li")) {
    const {result} = minibatch().walk[Number(item.dataset.at)];
    item.toggleAttribute("data-changed", numbersNow().changed.has(result));
  }
}

/** A number as it was, and by how much it is another. */
function difference(now, before) {
  const by = now - before;
  return {now: formatNumber(now), before: formatNumber(before), by: (by > 0 ? "+" : "") + formatNumber(by, 3)};
}

/** What is said of a number that is another than it was. */
function saidOfChange(spot) {
  if (isHidden(spot) || !numbersNow().isChanged(spot)) return "";
  return told("was", difference(numberAt(spot), storedAt(spot)));
}

/** The numbers that changed most, each in comparison with the largest in its table, one of a line. */
function changedMost(count) {
  const found = [];
  const onLines = new Set(minibatch().walk.map(entry => entry.result));
  for (const [table, numbers] of numbersNow().changed) {
    if (minibatch().tables[table].made === undefined || !onLines.has(table)) continue;
    const stored = numbersNow().stored(table);
    const largest = largestOf(stored) || 1;
    let most = {share: 0};
    for (let place = 0; place < numbers.length; ++place) {
      const share = Math.abs(numbers[place] - stored[place]) / largest;
      if (share > most.share) most = {table, place, share};
    }
    if (most.share > 0) found.push(most);
  }
  return found.sort((a, b) => b.share - a.share).slice(0, count);
}

/** Goes to one of the numbers that changed most: to the next each time. */
function goToChangedMost() {
  const all = changedMost(5);
  if (!all.length) return;
  const isAsked = each => shown.asked && each.table === shown.asked.table && each.place === shown.asked.place;
  const spot = all[(all.findIndex(isAsked) + 1) % all.length];
  followTo(spot.table);
  ask({table: spot.table, place: spot.place}, true);
}

/** How finely a number is moved with the arrow keys, and how far it is dragged. */
function reachOf(spot) {
  const {kind, is_rate: isRate} = tableOf(spot);
  const [stored, now] = [storedAt(spot), numberAt(spot)];
  const size = Math.max(1, 2 * largestOf(numbersNow().stored(spot.table)));
  const [low, high] = kind !== "setting" ? [-size, size]
    : isRate || !(stored > 0 && stored < 1) ? [0, 4 * Math.abs(stored) || 1] : [0, 1];
  const step = 10 ** Math.floor(Math.log10((high - low) / 50));
  return {low: Math.min(low, now), high: Math.max(high, now), step};
}

const neatly = (number, step) => Number((Math.round(number / step) * step).toPrecision(12));

/** What a number is changed with; kept while the same number is asked about, since it may be held. */
const control = {key: "", box: make("div", {id: "change"})};

function drawControl() {
  const spot = shown.asked;
  const key = changeKey(shown.minibatch, spot);
  const fixed = whyFixed(spot);
  const isOld = control.key === key;
  control.key = key;
  if (fixed) {
    control.box.replaceChildren();
    const isSource = tableOf(spot).made === undefined && tableOf(spot).kind !== "gradient";
    if (isSource) control.box.append(sentence(fixed));
  } else if (!isOld || !control.box.firstChild) {
    control.box.replaceChildren(...(tableOf(spot).choices ? choiceField(spot) : numberField(spot)));
  }
  for (const field of control.box.querySelectorAll("input, select")) {
    if (field !== document.activeElement || field.type === "range" || predicting.pending) field.value = fieldText(field, spot);
  }
  const isOwn = isOwnChange(spot);
  control.box.querySelector(".back")?.toggleAttribute("hidden", !isOwn);
}

function fieldText(field, spot) {
  const {pending} = predicting;
  const number = pending && changeKey(shown.minibatch, pending.spot) === control.key ? pending.number : numberAt(spot);
  return field.type === "text" ? formatNumber(number, 12) : String(number);
}

const backButton = () => make("button", {type: "button", class: "back", title: "u", onclick: putBackOne}, told("put_back"));

function choiceField(spot) {
  const {choices} = tableOf(spot);
  const names = Array.from({length: choices}, (_, at) => {
    const name = data.names.class.length === choices ? calledAt("class", at) : "";
    return make("option", {value: at}, `${at} ${name}`.trim());
  });
  const field = make("select", {"aria-label": told("change_of", {number: nameOf(spot)}),
                                onchange: event => propose(spot, Number(event.target.value))}, ...names);
  return [make("label", {}, told("change_it"), " ", field), backButton()];
}

function numberField(spot) {
  const {low, high, step} = reachOf(spot);
  const name = told("change_of", {number: nameOf(spot)});
  const text = make("input", {type: "text", inputmode: "decimal", autocomplete: "off", size: "12", "aria-label": name});
  const slide = make("input", {type: "range", min: low, max: high, step: "any", "aria-label": told("drag", {number: nameOf(spot)})});
  const take = () => {
    const number = parseTyped(text.value);
    text.toggleAttribute("aria-invalid", number === null);
    if (number === null) say(told("is_no_number", {typed: text.value}));
    else if (text.value !== fieldText(text, spot)) propose(spot, number);
  };
  text.addEventListener("change", take);
  text.addEventListener("keydown", event => {
    event.stopPropagation();
    const up = {ArrowUp: 1, ArrowDown: -1}[event.key];
    // The cursor may be elsewhere after it: the key has done its work.
    if (event.key === "Enter") {
      event.preventDefault();
      take();
    }
    if (up === undefined) return;
    event.preventDefault();
    const number = neatly((parseTyped(text.value) ?? numberAt(spot)) + up * step * (event.shiftKey ? 10 : 1), step);
    text.value = formatNumber(number, 12);
    if (!predicting.isOn && lastWorking < atOnce) propose(spot, number);
  });
  slide.addEventListener("input", () => {
    const number = neatly(Number(slide.value), step);
    text.value = formatNumber(number, 12);
    if (!predicting.isOn && lastWorking < atOnce) propose(spot, number);
  });
  slide.addEventListener("change", () => propose(spot, neatly(Number(slide.value), step)));
  return [make("label", {}, told("change_it"), " ", text), slide, backButton()];
}

/** Changes a number, or asks first what will come of it. */
function propose(spot, number) {
  if (isSame(number, numberAt(spot))) return;
  if (askFirst(spot, number)) return;
  setNumber(spot, number);
  const said = saidOfChange(resultSpot() ?? spot);
  say(said && `${nameOf(resultSpot() ?? spot)}: ${said}`);
}

/** Puts the cursor where the number that is asked about can be changed. */
function editAsked() {
  const field = control.box.querySelector("input, select");
  field?.focus();
  field?.select?.();
}

/** The row above the worksheet: settings, what was changed, what came of it. */
function drawBar() {
  const settings = minibatch().tables.map((table, at) => ({table, at})).filter(({table}) => table.kind === "setting");
  const spots = settings.map(({at}) => ({table: at, place: 0}));
  const chips = spots.map(spot => make("button", {
    type: "button", class: numbersNow().isChanged(spot) ? "changed" : "", onclick: () => ask(spot, true),
  }, `${nameOf(spot)} ${formatNumber(numberAt(spot))}`));
  const parts = [make("div", {class: "settings"}, ...(chips.length ? [make("span", {class: "faint"}, told("settings")), ...chips] : []),
                      besideField(), ...predictSwitch(), ...fileButtons())];
  if (changes.size) parts.push(make("div", {class: "list"}, ...changedList()));
  const question = predictQuestion();
  if (question) parts.push(question);
  if (lastWorking > atOnce) parts.push(sentence(tooLarge()));
  bar.replaceChildren(...parts);
  document.querySelector("#run h2").textContent = told(changes.size ? "the_run_unchanged" : "the_run");
}

function changedList() {
  const list = [...changes].map(([key, {step, spot, number}]) => {
    const name = `${data.steps.length > 1 ? `${stepName(step)}: ` : ""}${nameIn(step, spot)}`;
    const before = formatNumber(stepNumbers[step].stored(spot.table)[spot.place]);
    return make("span", {class: "change"},
      make("button", {type: "button", onclick: () => { goToMinibatch(step); ask(spot, true); }},
           told("from_to", {number: name, before, now: formatNumber(number)})),
      make("button", {type: "button", "aria-label": told("put_back_of", {number: name}), onclick: () => putBack(key)}, "✕"));
  });
  const most = changedMost(3).map(spot =>
    make("button", {type: "button", onclick: () => { followTo(spot.table); ask({table: spot.table, place: spot.place}, true); }},
         `${nameOf(spot)} ${difference(numberAt(spot), storedAt(spot)).by}`));
  const result = resultSpot();
  const said = result ? saidOfChange(result) : "";
  return [...list, make("button", {type: "button", title: "Shift+U", onclick: putBackAll}, told("put_back_all")),
          ...(result && !blanks.some(isOpen) ? [make("b", {}, `${nameOf(result)} ${formatNumber(numberAt(result))}`),
                                                make("span", {class: "faint"}, said || told("is_as_it_was"))] : []),
          ...(most.length ? [make("span", {class: "faint"}, told("changed_most")), ...most] : [])];
}

/** What is said of a page that takes long: for how large a minibatch it would not. */
function tooLarge() {
  const rows = minibatch().rows.length;
  const fitting = Math.floor(rows * atOnce / lastWorking);
  const seconds = formatNumber(lastWorking / 1000, 2);
  return fitting >= 1 && fitting < rows ? told("takes_long_with", {seconds, rows: fitting}) : told("takes_long", {seconds});
}

const stepName = at => {
  const {step} = allSteps[at];
  return step > 0 ? told("step", {step}) : told("answer", {number: at + 1});
};

/** A number's name in another step. */
function nameIn(step, {table, place}) {
  const {name, shape} = stepNumbers[step].tables()[table];
  const index = indexOf(shape, place);
  return name + (index.length ? `[${index.join(",")}]` : "");
}
