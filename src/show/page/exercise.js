/*
 * Numbers left blank, on the first minibatch. A blank is empty, wrong (and how often), right, or
 * shown; until it is right or shown, its number is nowhere on the page.
 */
const blanks = data.blanks.map(blank => ({...blank, state: "empty", tries: 0, hints: 0, typed: ""}));

function blankAt(spot) {
  if (shown.minibatch !== 0) return undefined;
  return blanks.find(blank => blank.table === spot.table && blank.place === spot.place);
}

const isOpen = blank => blank.state !== "right" && blank.state !== "shown";
const isHidden = spot => { const blank = blankAt(spot); return blank !== undefined && isOpen(blank); };
const isAnswered = spot => blankAt(spot)?.state === "right";
const blankNumber = spot => blanks.indexOf(blankAt(spot)) + 1;

/** How much is told of a blank: 0 nothing, 1 its formula, 2 the numbers too. */
const hintsFor = spot => blankAt(spot).hints;

/** Judges what was typed; null when it is no number. */
function judge(blank, text) {
  const typed = parseTyped(text);
  blank.typed = text;
  if (typed === null) return null;
  const isRight = Math.abs(typed - numberAt(blank)) <= blank.within;
  ++blank.tries;
  blank.state = isRight ? "right" : "wrong";
  if (!isRight) blank.hints = Math.min(2, blank.hints + 1);
  return isRight;
}

function blankInput(spot) {
  const blank = blankAt(spot);
  const input = make("input", {
    type: "text", inputmode: "decimal", autocomplete: "off", size: "7",
    "aria-label": told("blank", {number: blankNumber(spot), name: nameOf(spot)}), placeholder: `▢${blankNumber(spot)}`,
  });
  input.value = blank.typed;
  if (blank.state === "wrong") input.setAttribute("aria-invalid", "true");
  const answer = () => {
    if (input.value.trim() === "") return;
    const result = judge(blank, input.value);
    redraw();
    ask(spot, true);
    say(result === null ? told("is_no_number", blank)
        : result ? told("right", {number: nameOf(spot), value: formatNumber(numberAt(spot))})
                 : told("not_right_yet"));
    focusOn(spot);
  };
  input.addEventListener("keydown", event => {
    if (event.key === "Enter") answer();
    event.stopPropagation();
  });
  // What is typed and left stays; it is judged when Enter is pressed.
  input.addEventListener("change", () => { blank.typed = input.value; });
  input.addEventListener("focus", () => {
    const isAsked = shown.asked && shown.asked.table === spot.table && shown.asked.place === spot.place;
    if (!isAsked) ask(spot, true);
  });
  return input;
}

/** Puts the cursor where a number stands: into its blank, if it still is one. */
function focusOn(spot) {
  for (const table of document.querySelectorAll("#desk number-table")) {
    if (table.table !== spot.table) continue;
    const cell = table.querySelector(`td[data-place="${spot.place}"]`);
    (cell?.querySelector("input") ?? cell)?.focus();
  }
}

/** Goes to the line on which a blank stands. */
function goToBlank(blank) {
  shown.minibatch = 0;
  const entry = minibatch().walk.findIndex(each => each.result === blank.table);
  if (entry >= 0) goTo(entry);
  ask(blank, true);
  focusOn(blank);
}

function drawExercise(pane) {
  if (blanks.length === 0 || shown.minibatch !== 0) return;
  const right = blanks.filter(blank => blank.state === "right").length;
  const list = make("div", {class: "list"});
  blanks.forEach((blank, at) => {
    const word = blank.state === "right" ? "✓" : blank.state === "shown" ? told("shown") : blank.state === "wrong" ? "✗" : "";
    list.append(make("button", {type: "button", "data-state": blank.state, title: nameOf(blank),
                                onclick: () => goToBlank(blank)}, `▢${at + 1} ${word}`.trim()));
  });
  const box = make("div", {id: "exercise"}, make("h2", {}, told("exercise", {right, count: blanks.length})), list);
  const asked = shown.asked && blankAt(shown.asked);
  if (asked && isOpen(asked)) {
    const verdict = asked.state === "wrong" ? told("not_right", asked)
      : asked.typed === "" ? told("type_it")
      : parseTyped(asked.typed) === null ? told("typed_no_number", asked) : "";
    const more = () => {
      if (asked.hints < 2) ++asked.hints;
      else asked.state = "shown";
      redraw();
      drawWhy();
    };
    const words = ["hint_formula", "hint_numbers", "show_answer"];
    box.append(make("p", {role: "status"}, verdict),
               make("button", {type: "button", onclick: more}, told(words[asked.hints])));
  }
  pane.append(box);
}
