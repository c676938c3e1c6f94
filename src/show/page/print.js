/*
 * The printed form: the whole worksheet of the minibatch that is shown, stage by stage; with an
 * exercise, boxes for the blanks, and the answers on a page of their own.
 */
function printedTable(table) {
  const drawn = numberTable(table);
  for (const input of drawn.querySelectorAll("input")) {
    input.replaceWith(make("span", {}, `${input.placeholder} ________`));
  }
  return drawn;
}

function printedForm() {
  const title = data.exercise?.variant ? told("variant_of", {title: data.title, variant: data.exercise.variant}) : data.title;
  const sections = [make("h1", {}, title), make("p", {}, data.about.join(" · "))];
  for (const {step, spot, number} of changes.values()) {
    const before = formatNumber(stepNumbers[step].stored(spot.table)[spot.place]);
    sections.push(make("p", {}, told("from_to", {number: `${stepName(step)}: ${nameIn(step, spot)}`, before, now: formatNumber(number)})));
  }
  let stage = "";
  for (const entry of minibatch().walk) {
    if (entry.stage !== stage) {
      stage = entry.stage;
      sections.push(make("h2", {}, told(stage)));
    }
    const tables = entry.stage === "update"
      ? [...entry.operands.slice(2), entry.result] : [entry.result];
    sections.push(make("section", {}, make("h3", {}, `${entry.line}   ${entry.title}`),
                       make("div", {class: "tables"}, ...tables.map(printedTable))));
  }
  if (data.run) sections.push(make("h2", {}, told("the_run")), make("div", {class: "curves"}, ...curvesOf(data.run, data.references)));
  if (blanks.length && shown.minibatch === 0) sections.push(answers());
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
