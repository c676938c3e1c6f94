/* "Up or down?", asked before a change is carried out. */
const predicting = {isOn: remembered("predict") !== "off", pending: null, right: 0, count: 0, said: ""};

/** What the browser keeps for this page, where it does. */
function remembered(name) {
  try { return localStorage.getItem(`lattice ${name}`); } catch { return null; }
}
function remember(name, text) {
  try { localStorage.setItem(`lattice ${name}`, text); } catch { /* then it is not kept */ }
}

/** Asks what a change will do to the result; false where it is not asked. */
function askFirst(spot, number) {
  const result = resultSpot();
  if (!predicting.isOn || !result || !Number.isFinite(numberAt(result))) return false;
  predicting.pending = {spot, number};
  predicting.said = "";
  drawBar();
  bar.querySelector(".question button")?.focus();
  say(bar.querySelector(".question p").textContent);
  return true;
}

/** What can be said of a result, and what is told of what came of it. */
const directions = {up: ["predict_up", "went_up"], down: ["predict_down", "went_down"], same: ["predict_same", "went_same"]};
const directionOf = by => (by > 0 ? "up" : by < 0 ? "down" : "same");

/** Carries the change out, and says whether it went as was said.
 *  @param guess one of the directions, or nothing for "show me" */
function reveal(guess) {
  const {spot, number} = predicting.pending;
  const result = resultSpot();
  const before = numberAt(result);
  predicting.pending = null;
  setNumber(spot, number);
  const now = numberAt(result);
  const went = told(Number.isNaN(now) ? "went_nowhere" : directions[directionOf(now - before)][1],
                    {number: nameOf(result), before: formatNumber(before), now: formatNumber(now)});
  if (guess) {
    const isRight = !Number.isNaN(now) && directionOf(now - before) === guess;
    ++predicting.count;
    if (isRight) ++predicting.right;
    predicting.said = told(isRight ? "predicted" : "not_predicted", {went});
  } else {
    predicting.said = went;
  }
  drawBar();
  say(predicting.said);
  editAsked();
}

/** The question, or what came of it. */
function predictQuestion() {
  const {pending, said, count, right} = predicting;
  const score = count ? [make("span", {class: "faint"}, told("score", {right, count}))] : [];
  if (!pending) return said ? make("div", {class: "question"}, make("p", {role: "status"}, said), ...score) : null;
  const number = nameOf(pending.spot);
  const words = told("predict", {number, result: nameOf(resultSpot()), before: formatNumber(numberAt(pending.spot)),
                                 now: formatNumber(pending.number)});
  return make("div", {class: "question"}, make("p", {}, words),
              ...Object.entries(directions).map(([guess, [word]]) =>
                make("button", {type: "button", onclick: () => reveal(guess)}, told(word))),
              make("button", {type: "button", class: "plain", onclick: () => reveal()}, told("predict_show")), ...score);
}

function predictSwitch() {
  if (!resultSpot()) return [];
  const box = make("input", {type: "checkbox", onchange: event => {
    predicting.isOn = event.target.checked;
    remember("predict", predicting.isOn ? "on" : "off");
    if (!predicting.isOn && predicting.pending) reveal();
  }});
  box.checked = predicting.isOn;
  return [make("label", {title: told("predict_help")}, box, " ", told("predict_first"))];
}
