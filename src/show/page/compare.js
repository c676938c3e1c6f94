/* Another state of the numbers beside that which is shown: as they were, or those of another step. */

/** What stands beside: nothing, "before" for the numbers before the changes, or a step. */
let beside = "";

/** The numbers of a table in that state; undefined where it has none that lie alike. */
function numbersBeside(at) {
  if (beside === "") return undefined;
  if (beside === "before") return numbersNow().stored(at);
  const {kind, line, name, shape} = minibatch().tables[at];
  const other = stepNumbers[Number(beside)];
  const found = other.structure.numberOf(kind, line, name);
  const isAlike = found >= 0 && String(other.tables()[found].shape) === String(shape);
  return isAlike ? other.now(found) : undefined;
}

const besideName = () => (beside === "before" ? told("before_changes") : stepName(Number(beside)));

/** A table in that state, and the difference to it. */
function tablesBeside(at) {
  const numbers = numbersBeside(at);
  if (!numbers || hasBlank(at)) return [];
  const {name} = minibatch().tables[at];
  const now = numbersNow().now(at);
  const by = emptyNumbers(now.length).map((_, place) => now[place] - numbers[place]);
  return [numberTable(at, {share: numbers, label: told("beside", {name, state: besideName()})}),
          numberTable(at, {share: by, label: told("difference_of", {name})})];
}

function besideField() {
  const options = [["", told("nothing_beside")], ["before", told("before_changes")],
                   ...data.steps.map((_, at) => [String(at), stepName(at)]).filter(() => data.steps.length > 1)];
  const field = make("select", {onchange: event => {
    beside = event.target.value;
    drawDesk();
    revealAsked();
  }}, ...options.map(([value, name]) => make("option", {value}, name)));
  field.value = beside;
  return make("label", {}, told("show_beside"), " ", field);
}
