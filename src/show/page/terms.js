/*
 * Terms of the field, explained at a key press: those of the line that is being worked first.
 */
const termsBox = document.getElementById("terms");

const isAbout = ([, , where], words) => where.split(", ").some(each => words.includes(each));

/** What the line that is being worked is called: by its operation, the rule of an update, or its stage. */
function wordsOfLine() {
  const {stage, operation} = entryNow();
  return stage === "update" ? [stage, minibatch().rule] : [operation ?? stage];
}

const isAboutThisLine = term => isAbout(term, [entryNow().stage, entryNow().heading, ...wordsOfLine()]);

/** The terms of the line to press; what is about few lines first. */
function termsBesideLine() {
  const most = 6;
  const own = data.terms.filter(term => isAbout(term, wordsOfLine()));
  const terms = own.length ? own : data.terms.filter(isAboutThisLine);
  const lines = ([, , where]) => where.split(",").length;
  return terms.sort((a, b) => lines(a) - lines(b)).slice(0, most).map(([name]) => make("button", {type: "button", onclick: () => turnTerms(name)}, name));
}

function listOfTerms(heading, terms) {
  if (!terms.length) return [];
  const items = terms.flatMap(([name, meaning]) => [make("dt", {"data-term": name}, name), make("dd", {}, meaning)]);
  return [make("h2", {}, heading), make("dl", {}, ...items)];
}

/** Opens the terms, at one of them if it is named; where they are open already, closes them. */
function turnTerms(name) {
  if (termsBox.open) {
    termsBox.close();
    return;
  }
  const others = data.terms.filter(term => !isAboutThisLine(term));
  termsBox.querySelector("div").replaceChildren(
    ...listOfTerms(told("terms_here"), data.terms.filter(isAboutThisLine)),
    ...listOfTerms(told("terms_elsewhere"), others));
  termsBox.showModal();
  termsBox.scrollTop = 0;
  const asked = [...termsBox.querySelectorAll("dt")].find(each => each.dataset.term === name);
  if (!asked) return;
  asked.classList.add("asked");
  asked.scrollIntoView({block: "center"});
}

for (const id of ["explain", "close-terms"]) document.getElementById(id).addEventListener("click", () => turnTerms());
