/* The plane of two features: what is answered where with the weights as they are, and all rows. */

/** Works the answer at points of the plane with the weights of the step that is shown. */
class Plane {
  constructor({structure, numbers, point, answer}, weightsOf) {
    this.structure = data.structures[structure];
    this.point = point;
    this.answer = answer;
    this.tables = this.structure.tables.map((table, at) => {
      const own = numbers[at];
      return own ? numbersIn(own) : weightsOf(table);
    });
    this.order = this.structure.order.filter(at => this.structure.tables[at].kind === "value");
    const needed = new Set([answer]);
    for (const at of [...this.order].reverse()) {
      if (needed.has(at)) tablesIn(this.structure.tables[at].made).forEach(each => needed.add(each));
    }
    this.order = this.order.filter(at => needed.has(at));
  }

  answerAt(point) {
    this.tables[this.point] = emptyNumbers(2).map((_, at) => point[at]);
    for (const at of this.order) {
      const table = this.structure.tables[at];
      this.tables[at] = worked(table.made, this.tables, shapeInFormulas(table));
    }
    return this.tables[this.answer][0];
  }
}

/** The weights and running statistics of the step that is shown, as they are or as they were. */
function weightsNow(isNow) {
  const numbers = numbersNow();
  return ({kind, line, name}) => {
    if (kind !== "value") return undefined;
    const at = numbers.tables().findIndex(each => each.kind === "value" && each.name === name && each.made === undefined);
    return at < 0 ? undefined : isNow ? numbers.now(at) : numbers.stored(at);
  };
}

const cellsOnPlane = 44;

function drawPlane() {
  const box = document.getElementById("plane");
  box.hidden = !data.plane || blanks.some(isOpen);
  if (box.hidden) return;
  const {classes} = data.plane;
  const points = classes.map((_, row) => data.plane.points.slice(2 * row, 2 * row + 2));
  const size = {across: 460, down: 340};
  const canvas = box.querySelector("canvas");
  const pen = canvas.getContext("2d");
  const style = getComputedStyle(document.documentElement);
  const [low, high] = [0, 1].map(end => [0, 1].map(axis => {
    const all = points.map(point => point[axis]);
    const [least, most] = [all.reduce((a, b) => Math.min(a, b)), all.reduce((a, b) => Math.max(a, b))];
    const room = (most - least || 1) * 0.04;
    return end ? most + room : least - room;
  }));
  const at = (cell, axis) => low[axis] + (cell + 0.5) / cellsOnPlane * (high[axis] - low[axis]);
  const x = value => (value - low[0]) / (high[0] - low[0]) * size.across;
  const y = value => size.down - (value - low[1]) / (high[1] - low[1]) * size.down;
  const answersWith = isNow => {
    const plane = new Plane(data.plane, weightsNow(isNow));
    return Array.from({length: cellsOnPlane ** 2}, (_, cell) =>
      plane.answerAt([at(cell % cellsOnPlane, 0), at(Math.floor(cell / cellsOnPlane), 1)]));
  };
  const [wide, tall] = [size.across / cellsOnPlane, size.down / cellsOnPlane];
  pen.clearRect(0, 0, size.across, size.down);
  pen.globalAlpha = 0.28;
  const now = answersWith(true);
  now.forEach((answer, cell) => {
    const [column, row] = [cell % cellsOnPlane, Math.floor(cell / cellsOnPlane)];
    const [left, right] = [column, column + 1].map(each => Math.round(each * wide));
    const [top, bottom] = [row + 1, row].map(each => Math.round(size.down - each * tall));
    pen.fillStyle = colourOf(answer);
    pen.fillRect(left, top, right - left, bottom - top);
  });
  pen.globalAlpha = 1;
  const border = (answers, colour, dashes) => {
    pen.beginPath();
    answers.forEach((answer, cell) => {
      const [column, row] = [cell % cellsOnPlane, Math.floor(cell / cellsOnPlane)];
      const [left, top] = [column * wide, size.down - (row + 1) * tall];
      if (column + 1 < cellsOnPlane && answers[cell + 1] !== answer) {
        pen.moveTo(left + wide, top);
        pen.lineTo(left + wide, top + tall);
      }
      if (row + 1 < cellsOnPlane && answers[cell + cellsOnPlane] !== answer) {
        pen.moveTo(left, top);
        pen.lineTo(left + wide, top);
      }
    });
    pen.setLineDash(dashes);
    pen.strokeStyle = colour;
    pen.lineWidth = 1.6;
    pen.stroke();
    pen.setLineDash([]);
  };
  if (numbersNow().changed.size) border(answersWith(false), style.getPropertyValue("--pencil"), [4, 3]);
  border(now, style.getPropertyValue("--ink"), []);
  const rows = new Set(minibatch().rows);
  points.forEach((point, row) => {
    const isHere = rows.has(row);
    pen.beginPath();
    pen.arc(x(point[0]), y(point[1]), isHere ? 4.5 : 1.6, 0, 2 * Math.PI);
    pen.fillStyle = colourOf(classes[row]);
    pen.fill();
    if (!isHere) return;
    pen.strokeStyle = style.getPropertyValue("--ink");
    pen.lineWidth = 1.4;
    pen.stroke();
  });
  const title = told("plane", {step: stepName(shown.minibatch)});
  box.querySelector("h2").textContent = title;
  canvas.setAttribute("aria-label", title);
  box.querySelector("p").replaceChildren(...legendOf(data.names.class, told("axes", {
    across: `${calledAt("feature", 0)} ${formatNumber(low[0], 3)} … ${formatNumber(high[0], 3)}`,
    up: `${calledAt("feature", 1)} ${formatNumber(low[1], 3)} … ${formatNumber(high[1], 3)}`}),
    ` · ${told("plane_marks")}`, ...(numbersNow().changed.size ? [` · ${told("plane_before")}`] : [])));
}

/** Draws the plane soon, and once: while a number is dragged, not for each of its places. */
let isPlaneDue = false;
function drawPlaneSoon() {
  if (isPlaneDue || !data.plane) return;
  isPlaneDue = true;
  requestAnimationFrame(() => {
    isPlaneDue = false;
    drawPlane();
  });
}
