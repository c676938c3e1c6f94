/* The network for one example: it follows the walk, forward with values, backward with gradients. */

/** The example that is shown in the picture. */
let exampleShown = 0;

/** The table of a column, or of a weight, for the stage of the walk: values, or gradients. */
function tableForStage(at, stage) {
  const {line} = minibatch().tables[at];
  const {structure} = numbersNow();
  const found = stage === "reverse" ? structure.numberOf("gradient", line)
    : stage === "update" && minibatch().tables[at].made === undefined ? structure.numberOf("after", line) : at;
  return found < 0 ? undefined : found;
}

/** Whether the walk has not come to the table of a line yet. */
function isAheadOf(table, stage) {
  const {walk} = minibatch();
  const at = walk.findIndex(entry => entry.result === table);
  return table === undefined || (stage === "reverse" || stage === "forward" || stage === "loss" ? at > shown.entry : false);
}

const isAsked = spot => shown.asked && shown.asked.table === spot.table && shown.asked.place === spot.place;
const marksOf = (spot, used) => isAsked(spot) ? "asked" : used.has(`${spot.table}:${spot.place}`) ? "used" : "";

/** The units of a column for an example: a cell each, or a picture each; of many, groups of them. */
function cellsOf(at, stage, used) {
  const own = tableForStage(at, stage);
  const table = own ?? at;
  const {shape, roles, name} = minibatch().tables[table];
  const numbers = numbersNow().now(table);
  const hasExamples = roles[0] === "example" || roles[0] === "node";
  const count = numbers.length / (hasExamples ? shape[0] : 1);
  const first = hasExamples ? exampleShown * count : 0;
  const valueOf = spot => ({number: numbers[spot.place], isBlank: isHidden(spot), marks: marksOf(spot, used)});
  const [down, across] = [roles.indexOf("row"), roles.indexOf("column")];
  if (down > 0 && across > 0) return channelsOf({table, shape, numbers, first, count, down, across}, used);
  const group = Math.ceil(count / mostCells);
  return Array.from({length: Math.ceil(count / group)}, (_, of) => {
    const places = Array.from({length: Math.min(group, count - of * group)}, (__, each) => first + of * group + each);
    const spots = places.map(place => ({table, place}));
    const marks = spots.map(spot => marksOf(spot, used)).find(Boolean) ?? "";
    const unit = calledAt(roles[1], of);
    if (group === 1) {
      const value = valueOf(spots[0]);
      const shownNumber = value.isBlank ? "▢" : formatNumber(value.number);
      return {...value, name: unit, title: `${nameOf(spots[0])} = ${shownNumber}${unit ? ` (${unit})` : ""}`, pick: () => ask(spots[0], true)};
    }
    const mean = places.reduce((sum, place) => sum + numbers[place], 0) / places.length;
    return {number: mean, marks, isBlank: spots.some(isHidden), name: `${of * group}–${of * group + places.length - 1}`,
            title: told("mean_of_units", {name, first: of * group, last: of * group + places.length - 1, mean: formatNumber(mean)}),
            pick: () => ask(spots[0], true)};
  });
}

/** The channels of a picture, with the patch that the number which is asked about is made from. */
function channelsOf({table, shape, numbers, first, count, down, across}, used) {
  const channels = shape.slice(1).reduce((product, extent) => product * extent, 1) / (shape[down] * shape[across]);
  const steps = stepsOf(shape);
  const behind = [...used].map(key => key.split(":").map(Number)).filter(([of]) => of === table).map(([, place]) => place);
  const asked = shown.asked?.table === table ? [shown.asked.place] : [];
  const patchOf = (places, channel) => {
    const here = places.filter(place => place >= first && place < first + count && (place - first) % channels === channel);
    if (!here.length) return undefined;
    const lie = axis => here.map(place => indexOf(shape, place)[axis]);
    const [rows, columns] = [lie(down), lie(across)];
    const [row, column] = [Math.min(...rows), Math.min(...columns)];
    return {row, column, high: Math.max(...rows) - row + 1, wide: Math.max(...columns) - column + 1};
  };
  return Array.from({length: Math.min(channels, mostCells / 3)}, (_, channel) => {
    const places = Array.from({length: shape[down] * shape[across]}, (__, at) =>
      first + Math.floor(at / shape[across]) * steps[down] + (at % shape[across]) * steps[across] + channel);
    const patch = patchOf(asked, channel) ?? patchOf(behind, channel);
    return {shape: [shape[down], shape[across]], numbers: places.map(place => numbers[place]), patch,
            isBlank: places.some(place => isHidden({table, place})), marks: patchOf(asked, channel) ? "asked" : patch ? "used" : "",
            name: channels > 1 ? String(channel) : "", title: told("channel_of", {name: minibatch().tables[table].name, channel}),
            pick: (row, column) => ask({table, place: places[row * shape[across] + column]}, true)};
  });
}

/** The lines of a link. */
function linesOf({from, to, kind, weight}, columns, stage, used) {
  const [before, after] = [columns[from].cells, columns[to].cells];
  // Whatever is not a window goes on channel by channel.
  const areChannels = kind === "all" && before[0].shape && after[0].shape;
  if ((kind === "each" || areChannels) && before.length === after.length) return before.map((_, at) => ({from: at, to: at}));
  // Back through weights that get no gradient the weights themselves are shown.
  const table = weight === undefined ? undefined : tableForStage(weight, stage) ?? weight;
  const isWeighted = kind === "weighted" && table !== undefined && !before[0].shape && !after[0].shape;
  if (!isWeighted) return linesThrough(before.length, after.length);
  const [rows, columnsOf] = shapeInFormulas(minibatch().tables[table]);
  const numbers = numbersNow().now(table);
  const isAhead = !(stage === "reverse" && table === weight) && isAheadOf(table, stage);
  const [tall, wide] = [Math.ceil(rows / before.length), Math.ceil(columnsOf / after.length)];
  return before.flatMap((_, a) => after.map((__, b) => {
    const places = [];
    for (let row = a * tall; row < Math.min(rows, (a + 1) * tall); ++row) {
      for (let column = b * wide; column < Math.min(columnsOf, (b + 1) * wide); ++column) places.push(row * columnsOf + column);
    }
    const spot = {table, place: places[0]};
    const number = isAhead || places.some(place => isHidden({table, place})) ? undefined
      : places.reduce((sum, place) => sum + numbers[place], 0) / places.length;
    const marks = places.map(place => marksOf({table, place}, used)).find(Boolean) ?? "";
    const title = number === undefined ? "" : places.length === 1 ? `${nameOf(spot)} = ${formatNumber(number)}`
      : told("mean_of_weights", {name: nameOf(spot), count: places.length, mean: formatNumber(number)});
    return {from: a, to: b, number, marks, title, pick: () => ask(spot, true)};
  }));
}

/** Plain lines between two columns: from every cell to every cell, as long as these are few. */
function linesThrough(before, after) {
  if (before * after <= 64) return Array.from({length: before * after}, (_, at) => ({from: Math.floor(at / after), to: at % after}));
  const longer = Math.max(before, after);
  return Array.from({length: longer}, (_, at) => ({from: Math.floor(at * before / longer), to: Math.floor(at * after / longer)}));
}

/** Draws the network for the place where we are. */
function drawNetwork() {
  const box = document.getElementById("network");
  const {network} = data.structures[minibatch().structure];
  box.hidden = !network;
  if (box.hidden || !box.open) return;
  const {stage, line} = entryNow();
  const rolesOf = minibatch().tables[network.columns[0]].roles;
  const examples = minibatch().tables[network.columns[0]].shape[0];
  const askedTable = shown.asked && tableOf(shown.asked);
  if (askedTable?.roles[0] === rolesOf[0]) [exampleShown] = indexOf(askedTable.shape, shown.asked.place);
  exampleShown = Math.min(exampleShown, examples - 1);
  const used = new Set(shown.asked ? spotsIn(formulaOf(shown.asked)).map(spot => `${spot.table}:${spot.place}`) : []);
  const columns = network.columns.map(at => {
    const table = tableForStage(at, stage);
    const {name, roles, line: own} = minibatch().tables[table ?? at];
    return {name, cells: cellsOf(at, stage, used), isHere: own === line, isAhead: isAheadOf(table, stage), isNamed: roles[1] === "class"};
  });
  const links = network.links.map(link => ({...link, lines: linesOf(link, columns, stage, used)}));
  const what = told({reverse: "of_gradients", update: "of_new_weights"}[stage] ?? "of_values");
  const label = told("network_of", {what, role: rolesOf[0], example: calledAt(rolesOf[0], exampleShown) || exampleShown});
  const choose = make("input", {type: "number", min: 0, max: examples - 1, value: exampleShown, "aria-label": rolesOf[0],
                                onchange: event => showExample(Number(event.target.value))});
  const isGrouped = columns.some((column, at) => column.cells.length < minibatch().tables[network.columns[at]].shape.slice(1)
    .reduce((product, extent) => product * extent, 1) && !column.cells[0].shape);
  // Of a number of a node the graph stands beside its arithmetic.
  const graph = rolesOf[0] === "node" && askedTable?.roles[0] !== "node" ? drawBeside({table: network.columns[0], place: exampleShown *
    (numbersNow().now(network.columns[0]).length / examples)}) : [];
  box.querySelector("div").replaceChildren(
    make("p", {class: "faint"}, label, " ", choose, isGrouped ? ` ${told("grouped")}` : ""), drawColumns(columns, links, label), ...graph);
}

function showExample(example) {
  const {network} = data.structures[minibatch().structure];
  const count = minibatch().tables[network.columns[0]].shape[0];
  exampleShown = Math.max(0, Math.min(count - 1, Math.floor(example) || 0));
  const table = tableForStage(network.columns[0], entryNow().stage) ?? network.columns[0];
  ask({table, place: exampleShown * (numbersNow().now(table).length / count)}, true);
}
