/* Draws what the server tells of a run while it goes on. Every watcher is told everything again
   when it comes back, so that nothing is lost. */
const run = {epochs: [], steps: [], rate_changes: []};
let lesson = data;

/** What kinds of data add to a moment: a function for each key. */
const momentDrawers = {};

/** The section of the page that a kind of data draws in, made when it is first asked for. */
function sectionOf(id, ...content) {
  const known = document.getElementById(id);
  if (known) return known;
  const section = make("section", {id}, make("h2", {}, ""), ...content);
  document.getElementById("pictures").insertBefore(section, document.getElementById("confusion"));
  return section;
}

document.getElementById("about").textContent = data.about.join(" · ");

function drawRun() {
  document.getElementById("curves").replaceChildren(...curvesOf(run, lesson.references));
}

function stateOf(figures) {
  const of = (part, {loss, accuracy}) => accuracy === undefined
    ? told("part_loss", {part: told(part), loss: formatNumber(loss)})
    : told("part_figures", {part: told(part), loss: formatNumber(loss), accuracy: formatNumber(accuracy, 4)});
  const parts = [told("epoch_of", {epoch: figures.epoch, epochs: lesson.epochs}),
                 told("rate", {rate: formatNumber(figures.rate)})];
  if (figures.running_loss !== null) {
    parts.push(of("running", {loss: figures.running_loss, accuracy: figures.running_accuracy}));
  }
  if (figures.train) parts.push(of("train", figures.train));
  if (figures.validation) parts.push(of("validation", figures.validation));
  parts.push(told("seconds", {seconds: figures.seconds.toFixed(1)}));
  return parts.join(" · ");
}

function drawFlow(moment) {
  const box = document.getElementById("flow");
  box.hidden = false;
  box.querySelector("h2").textContent = told("through_layers", moment);
  box.querySelector("div").replaceChildren(flowTable(moment.flow));
}

function drawNetwork({epoch, part, network}) {
  const box = document.getElementById("network");
  box.hidden = false;
  const title = told("network_then", {epoch, part});
  box.querySelector("h2").textContent = title;
  for (const {name, cells} of network.columns) {
    for (const cell of cells) {
      cell.number = asNumber(cell.number ?? 0);
      if (cell.numbers) cell.numbers = cell.numbers.map(asNumber);
      cell.title = cell.shape ? told("channel_of", {name, channel: cell.name || 0}) : `${name} ${cell.name} ${formatNumber(cell.number)}`;
    }
  }
  for (const {lines} of network.links) {
    for (const line of lines) if (line.number !== undefined) line.number = asNumber(line.number);
  }
  box.querySelector("div").replaceChildren(drawColumns(network.columns, network.links, title));
}

/** Counts by true class (row) and answer (column). */
function confusionTable(confusion) {
  const table = make("table", {}, make("tr", {}, make("th", {}, ""),
    ...lesson.classes.map(name => make("th", {scope: "col"}, name))));
  confusion.forEach((line, truth) => {
    const total = line.reduce((sum, each) => sum + each, 0) || 1;
    const cells = line.map((count, answer) => {
      const cell = make("td", {}, String(count));
      cell.style.setProperty("--share", (count / total).toFixed(3));
      cell.style.setProperty("--tone", truth === answer ? "var(--teal)" : "var(--plum)");
      return cell;
    });
    table.append(make("tr", {}, make("th", {scope: "row"}, lesson.classes[truth]), ...cells));
  });
  return table;
}

function drawConfusion(moment) {
  const box = document.getElementById("confusion");
  box.hidden = false;
  box.querySelector("h2").textContent = told("truth_by_answer", moment);
  box.querySelector("div").replaceChildren(confusionTable(moment.confusion));
}

/** The moments at which the confusion matrix was recorded, the newest last. */
const recorded = [];
let chosen = null;

function noteRecorded(name, figures) {
  if (!figures?.confusion) return;
  recorded.push({name, ...figures});
  const most = 8;
  if (recorded.length > most) recorded.shift();
  drawRecorded();
}

/** Recall of each class at those moments; the matrix of the one that is chosen, or the newest. */
function drawRecorded() {
  const shown = recorded.includes(chosen) ? chosen : recorded.at(-1);
  const box = sectionOf("recorded", make("div", {}), make("p", {class: "faint"}), make("div", {}));
  box.querySelector("h2").textContent = told("recall_by_class");
  const heads = recorded.map(moment => {
    const button = make("button", {type: "button", "aria-pressed": String(moment === shown)}, moment.name);
    button.addEventListener("click", () => { chosen = moment; drawRecorded(); });
    return make("th", {scope: "col"}, button);
  });
  const cellOf = share => {
    const cell = make("td", {}, share === null ? "–" : formatNumber(share, 3));
    cell.style.setProperty("--share", (share ?? 0).toFixed(3));
    cell.style.setProperty("--tone", "var(--teal)");
    return cell;
  };
  const rows = lesson.classes.map((name, truth) =>
    make("tr", {}, make("th", {scope: "row"}, name), ...recorded.map(({recall}) => cellOf(recall[truth]))));
  const [recalls, matrix] = box.querySelectorAll("div");
  recalls.replaceChildren(make("table", {}, make("tr", {}, make("th", {}, ""), ...heads), ...rows));
  box.querySelector("p").textContent = told("truth_by_answer_then", {moment: shown.name});
  matrix.replaceChildren(confusionTable(shown.confusion));
}

function drawRegions(moment) {
  const box = document.getElementById("regions");
  box.hidden = false;
  box.querySelector("h2").textContent = told("answers_where", moment);
  const canvas = box.querySelector("canvas");
  const pen = canvas.getContext("2d");
  const size = moment.regions.length;
  const [wide, high] = [canvas.width / size, canvas.height / size];
  pen.clearRect(0, 0, canvas.width, canvas.height);
  pen.globalAlpha = 0.35;
  moment.regions.forEach((line, row) => {
    line.forEach((answer, column) => {
      pen.fillStyle = colourOf(answer);
      const [left, right] = [Math.round(column * wide), Math.round((column + 1) * wide)];
      const [top, bottom] = [Math.round((size - row - 1) * high), Math.round((size - row) * high)];
      pen.fillRect(left, top, right - left, bottom - top);
    });
  });
  pen.globalAlpha = 1;
  const {low, high: ends, points} = lesson.plane;
  for (const [x, y, truth] of points) {
    pen.fillStyle = colourOf(truth);
    const across = (x - low[0]) / (ends[0] - low[0]) * canvas.width;
    const up = canvas.height - (y - low[1]) / (ends[1] - low[1]) * canvas.height;
    pen.fillRect(across - 1.5, up - 1.5, 3, 3);
  }
  box.querySelector(".legend").replaceChildren(...legendOf(lesson.classes, told("axes", {across: lesson.features[0], up: lesson.features[1]})));
}

const events = new EventSource("events");
events.addEventListener("start", () => {
  run.epochs = [];
  run.steps = [];
  run.rate_changes = [];
  recorded.length = 0;
});

/** Draws the run anew, once for all that came since the last picture. */
function drawSoon() {
  if (drawSoon.asked) return;
  drawSoon.asked = true;
  requestAnimationFrame(() => { drawSoon.asked = false; drawRun(); });
}

events.addEventListener("step", event => {
  const figures = JSON.parse(event.data);
  run.steps.push(figures);
  noteRecorded(told("at_step", figures), figures.watched);
  drawSoon();
});
events.addEventListener("epoch", event => {
  const figures = JSON.parse(event.data);
  const before = run.epochs.at(-1);
  if (before && before.rate !== figures.rate && figures.epoch > 1) run.rate_changes.push({epoch: figures.epoch});
  run.epochs.push(figures);
  noteRecorded(told("at_epoch", figures), figures.validation ?? figures.train);
  document.getElementById("state").textContent = stateOf(figures);
  document.getElementById("progress").value = figures.epoch / lesson.epochs;
  drawSoon();
});
events.addEventListener("moment", event => {
  const moment = JSON.parse(event.data);
  if (moment.confusion) drawConfusion(moment);
  if (moment.regions) drawRegions(moment);
  if (moment.network) drawNetwork(moment);
  for (const [key, draw] of Object.entries(momentDrawers)) if (moment[key]) draw(moment[key], moment);
  if (moment.flow && hasFlow(moment.flow)) drawFlow(moment);
});
events.addEventListener("end", event => {
  const end = JSON.parse(event.data);
  const state = document.getElementById("state");
  state.textContent = told("ended", {state: state.textContent, ...end});
  document.getElementById("progress").value = 1;
});
events.addEventListener("error", () => {
  document.title = told("waiting", lesson);
});
events.addEventListener("open", () => {
  document.title = lesson.title;
});
