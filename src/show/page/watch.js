/* Draws what the server tells of a run while it goes on. Every watcher is told everything again
   when it comes back, so that nothing is lost. */
const run = {epochs: [], steps: [], rate_changes: []};
let lesson = data;

document.getElementById("about").textContent = data.about.join(" · ");

function drawRun() {
  document.getElementById("curves").replaceChildren(...curvesOf(run, lesson.references));
}

function stateOf(figures) {
  const accuracy = part => part && part.accuracy !== undefined ? `, accuracy ${formatNumber(part.accuracy, 4)}` : "";
  const parts = [`epoch ${figures.epoch} of ${lesson.epochs}`, `rate ${formatNumber(figures.rate)}`];
  if (figures.running_loss !== null) {
    const running = {accuracy: figures.running_accuracy};
    parts.push(`running loss ${formatNumber(figures.running_loss)}${accuracy(running)}`);
  }
  parts.push(`train loss ${formatNumber(figures.train.loss)}${accuracy(figures.train)}`);
  if (figures.validation) {
    parts.push(`validation loss ${formatNumber(figures.validation.loss)}${accuracy(figures.validation)}`);
  }
  parts.push(`${figures.seconds.toFixed(1)} s`);
  return parts.join(" · ");
}

/** A picture point by point, which the page shows as large as it likes. */
function canvasOf({rows, columns, channels, points}) {
  const canvas = make("canvas", {width: columns, height: rows});
  const pen = canvas.getContext("2d");
  const image = pen.createImageData(columns, rows);
  for (let at = 0; at < rows * columns; at++) {
    for (let channel = 0; channel < 3; channel++) {
      image.data[4 * at + channel] = points[at * channels + channel % channels];
    }
    image.data[4 * at + 3] = 255;
  }
  pen.putImageData(image, 0, 0);
  return canvas;
}

function drawWrong(moment) {
  const box = document.getElementById("wrong");
  box.hidden = false;
  const said = moment.wrong.length > 0 ? "Got wrong now, the worst first" : "Nothing is got wrong";
  box.querySelector("h2").textContent = `${said}: ${moment.part} part, epoch ${moment.epoch}`;
  box.querySelector("div").replaceChildren(...moment.wrong.map(each => make("figure", {}, canvasOf(each),
    make("figcaption", {}, each.caption, make("b", {}, `said ${each.answer}`)))));
}

function drawDepth(moment) {
  const box = document.getElementById("depth");
  box.hidden = false;
  box.querySelector("h2").textContent = `Through the parts: epoch ${moment.epoch}`;
  box.querySelector("div").replaceChildren(depthTable(moment.depth));
}

function drawConfusion(moment) {
  const box = document.getElementById("confusion");
  box.hidden = false;
  box.querySelector("h2").textContent = `Truth by answer: ${moment.part} part, epoch ${moment.epoch}`;
  const table = make("table", {}, make("tr", {}, make("th", {}, ""),
    ...lesson.classes.map(name => make("th", {scope: "col"}, name))));
  moment.confusion.forEach((line, truth) => {
    const total = line.reduce((sum, each) => sum + each, 0) || 1;
    const cells = line.map((count, answer) => {
      const cell = make("td", {}, String(count));
      cell.style.setProperty("--share", (count / total).toFixed(3));
      cell.style.setProperty("--tone", truth === answer ? "var(--teal)" : "var(--plum)");
      return cell;
    });
    table.append(make("tr", {}, make("th", {scope: "row"}, lesson.classes[truth]), ...cells));
  });
  box.querySelector("div").replaceChildren(table);
}

function drawRegions(moment) {
  const box = document.getElementById("regions");
  box.hidden = false;
  box.querySelector("h2").textContent = `What it answers where: epoch ${moment.epoch}`;
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
  box.querySelector(".legend").replaceChildren(...legendOf(lesson.classes, `across ${lesson.features[0]}, up ${lesson.features[1]}`));
}

/** The nodes of a graph in the colour of what is true of them, with a dot where the answer is another. */
function drawNodes({title, places, answers}, epoch) {
  const {edges, known, names, truth, without_truth: withoutTruth} = lesson.graph;
  const box = document.getElementById("nodes");
  box.hidden = false;
  const others = places.map((_, node) => node).filter(node => !known.includes(node) && !withoutTruth.includes(node));
  const right = answers ? `, ${others.filter(node => answers[node] === truth[node]).length} of ${others.length} others right` : "";
  box.querySelector("h2").textContent = `${title}: epoch ${epoch}${right}`;
  const canvas = box.querySelector("canvas");
  const pen = canvas.getContext("2d");
  const room = 16;
  const [x, y] = [0, 1].map(axis => {
    const all = places.map(place => place[axis]);
    const [low, high] = [Math.min(...all), Math.max(...all)];
    const long = (axis === 0 ? canvas.width : canvas.height) - 2 * room;
    return node => {
      const share = high > low ? (places[node][axis] - low) / (high - low) : 0.5;
      return room + (axis === 0 ? share : 1 - share) * long;
    };
  });
  const style = getComputedStyle(document.documentElement);
  const dot = (node, size, colour) => {
    pen.beginPath();
    pen.arc(x(node), y(node), size, 0, 2 * Math.PI);
    pen.fillStyle = colour;
    pen.fill();
  };
  pen.clearRect(0, 0, canvas.width, canvas.height);
  pen.strokeStyle = style.getPropertyValue("--rule");
  pen.lineWidth = 1;
  for (const [from, to] of edges) {
    pen.beginPath();
    pen.moveTo(x(from), y(from));
    pen.lineTo(x(to), y(to));
    pen.stroke();
  }
  const small = places.length > 100;
  for (const node of places.keys()) {
    const of = withoutTruth.includes(node) ? undefined : truth ? truth[node] : 0;
    dot(node, small ? 3 : 6, of === undefined ? style.getPropertyValue("--pencil") : colourOf(of));
    if (of === undefined) dot(node, small ? 2 : 4.5, style.getPropertyValue("--sheet"));
    if (answers && answers[node] !== of) {
      dot(node, small ? 2 : 4, style.getPropertyValue("--sheet"));
      dot(node, small ? 1.2 : 2.6, colourOf(answers[node]));
    }
  }
  pen.strokeStyle = style.getPropertyValue("--ink");
  pen.lineWidth = 1.6;
  for (const node of known) {
    pen.beginPath();
    pen.arc(x(node), y(node), small ? 6 : 9.5, 0, 2 * Math.PI);
    pen.stroke();
  }
  canvas.setAttribute("aria-label", names.join(", "));
  box.querySelector(".legend").replaceChildren(...legendOf(lesson.classes, `ringed: known; inside: another answer${withoutTruth.length ? "; hollow: nobody knows" : ""}`));
}

const events = new EventSource("events");
events.addEventListener("start", () => {
  run.epochs = [];
  run.steps = [];
  run.rate_changes = [];
});

/** Draws the run anew, once for all that came since the last picture. */
function drawSoon() {
  if (drawSoon.asked) return;
  drawSoon.asked = true;
  requestAnimationFrame(() => { drawSoon.asked = false; drawRun(); });
}

events.addEventListener("step", event => {
  run.steps.push(JSON.parse(event.data));
  drawSoon();
});
events.addEventListener("epoch", event => {
  const figures = JSON.parse(event.data);
  const before = run.epochs.at(-1);
  if (before && before.rate !== figures.rate && figures.epoch > 1) run.rate_changes.push({epoch: figures.epoch});
  run.epochs.push(figures);
  document.getElementById("state").textContent = stateOf(figures);
  document.getElementById("progress").value = figures.epoch / lesson.epochs;
  drawSoon();
});
events.addEventListener("moment", event => {
  const moment = JSON.parse(event.data);
  if (moment.confusion) drawConfusion(moment);
  if (moment.regions) drawRegions(moment);
  if (moment.nodes) drawNodes(moment.nodes, moment.epoch);
  if (moment.wrong) drawWrong(moment);
  if (moment.depth && isDeep(moment.depth)) drawDepth(moment);
});
events.addEventListener("end", event => {
  const end = JSON.parse(event.data);
  const state = document.getElementById("state");
  state.textContent = `${state.textContent} — ended: ${end.ending}, ${end.updates} updates`;
  document.getElementById("progress").value = 1;
});
events.addEventListener("error", () => {
  document.title = `(waiting) ${lesson.title}`;
});
events.addEventListener("open", () => {
  document.title = lesson.title;
});
