const svgNamespace = "http://www.w3.org/2000/svg";

function svg(tag, attributes, ...content) {
  const element = document.createElementNS(svgNamespace, tag);
  for (const [name, value] of Object.entries(attributes)) element.setAttribute(name, value);
  element.append(...content);
  return element;
}

/** Round numbers from low to high, about five of them. */
function ticks(low, high) {
  const rough = (high - low) / 5 || 1;
  const power = 10 ** Math.floor(Math.log10(rough));
  const step = [1, 2, 5, 10].map(each => each * power).find(each => each >= rough);
  const all = [];
  for (let at = Math.ceil(low / step) * step; at <= high + step * 1e-9; at += step) {
    all.push(Math.abs(at) < step * 1e-9 ? 0 : at);
  }
  return all;
}

/**
 * Curves over epochs or steps, their legend beside them.
 * @param {{word: string, label: string, points: [number, number][]}[]} curves
 * @param {{name: string, figure: number}[]} references what others reached, as lines across
 */
function drawCurves(title, across, curves, marks, lowest, references = []) {
  const box = {left: 60, top: 34, right: 400, bottom: 230};
  const points = curves.flatMap(curve => curve.points).filter(point => Number.isFinite(point[1]));
  if (points.length === 0) return svg("svg", {viewBox: "0 0 540 280"});
  const outermost = (choose, numbers) => numbers.reduce((best, each) => choose(best, each));
  const last = outermost(Math.max, [1, ...points.map(point => point[0])]);
  const values = [...points.map(point => point[1]), ...references.map(each => each.figure)];
  const low = outermost(Math.min, [lowest, ...values]);
  const high = outermost(Math.max, values) || 1;
  const x = at => box.left + at / last * (box.right - box.left);
  const y = value => box.bottom - (value - low) / (high - low || 1) * (box.bottom - box.top);
  const height = 280 + 20 * references.length;
  const drawing = svg("svg", {viewBox: `0 0 540 ${height}`, role: "img", "aria-label": title});
  drawing.append(svg("text", {x: box.left, y: 18, "font-weight": 600}, title));
  for (const value of ticks(low, high)) {
    drawing.append(svg("path", {class: "grid", d: `M${box.left} ${y(value)}H${box.right}`}),
                   svg("text", {x: box.left - 8, y: y(value) + 4, "text-anchor": "end"}, formatNumber(value, 3)));
  }
  for (const tick of ticks(0, last).filter(Number.isInteger)) {
    drawing.append(svg("text", {x: x(tick), y: box.bottom + 18, "text-anchor": "middle"}, String(tick)));
  }
  drawing.append(svg("text", {x: (box.left + box.right) / 2, y: box.bottom + 38, "text-anchor": "middle"}, across));
  for (const mark of marks) {
    drawing.append(svg("path", {class: "mark", d: `M${x(mark)} ${box.top}V${box.bottom}`}));
  }
  drawing.append(svg("path", {class: "axis", d: `M${box.left} ${box.top}V${box.bottom}H${box.right}`}));
  const legend = [...curves.map(curve => [curve.word, curve.label, "line"]),
                  ...(marks.length ? [["", told("rate_changed"), "mark"]] : [])];
  legend.forEach(([word, label, kind], at) => {
    const height = box.top + 12 + at * 22;
    drawing.append(svg("path", {class: `${kind} ${word}`, d: `M${box.right + 14} ${height}h26`}),
                   svg("text", {x: box.right + 46, y: height + 4}, label));
  });
  for (const curve of curves) {
    // A line that breaks off where there is no number, and begins anew behind it.
    const isNumber = curve.points.map(point => Number.isFinite(point[1]));
    const path = curve.points.map(([place, value], at) => !isNumber[at] ? ""
      : `${at && isNumber[at - 1] ? "L" : "M"}${x(place).toFixed(1)} ${y(value).toFixed(1)}`).join("");
    drawing.append(svg("path", {class: `line ${curve.word}`, d: path}));
  }
  // Their names may be long, and stand below, where there is room for them.
  references.forEach(({name, figure}, at) => {
    const look = {class: "reference", "stroke-dasharray": ["9 5", "3 4", "14 3 3 3"][at % 3]};
    const height = box.bottom + 58 + at * 20;
    drawing.append(svg("path", {...look, d: `M${box.left} ${y(figure)}H${box.right}`}),
                   svg("path", {...look, d: `M${box.left} ${height}h36`}),
                   svg("text", {x: box.left + 44, y: height + 4}, told("reference", {name, figure: formatNumber(figure, 4)})));
  });
  return drawing;
}

/** The curves of a run record: by epoch, or by step where steps were recorded. */
function curvesOf(run, references = []) {
  const steps = run.steps ?? [];
  const byStep = steps.length > 0;
  const across = told(byStep ? "by_step" : "by_epoch");
  const ofEpochs = read => run.epochs.map(each => [byStep ? each.updates : each.epoch, read(each) ?? NaN]);
  const ofSteps = read => steps.map(each => [each.step, read(each) ?? NaN]);
  const isValidated = run.epochs.some(each => each.validation);
  // What is known of a figure at the ends of epochs and, by step, between them.
  const withBetween = (points, key, figure) => {
    const ends = new Set(points.map(point => point[0]));
    const between = steps.filter(each => each[key] && !ends.has(each.step))
      .map(each => [each.step, each[key][figure] ?? NaN]);
    return [...points, ...between].sort((first, second) => first[0] - second[0]);
  };
  // The part that is watched was looked at between epochs, too.
  const ofPart = (part, figure) => {
    const points = ofEpochs(each => each[part]?.[figure]);
    return isValidated === (part === "validation") ? withBetween(points, "watched", figure) : points;
  };
  const ofRunning = figure => withBetween(ofEpochs(each => each[`running_${figure}`]), "running", figure);
  const curvesOfFigure = figure => [
    {word: "minibatch", label: told("minibatch"), points: ofSteps(each => each[figure])},
    {word: "running", label: told("running"), points: ofRunning(figure)},
    {word: "train", label: told("train"), points: ofPart("train", figure)},
    {word: "validation", label: told("validation"), points: ofPart("validation", figure)},
  ].filter(curve => curve.points.some(point => Number.isFinite(point[1])));
  const begins = epoch => run.epochs.filter(each => each.epoch < epoch).at(-1)?.updates ?? 0;
  const marks = run.rate_changes.map(change => byStep ? begins(change.epoch) : change.epoch);
  const accuracies = curvesOfFigure("accuracy");
  const drawings = [drawCurves(told("loss_by", {across}), across, curvesOfFigure("loss"), marks, 0)];
  if (accuracies.length) {
    drawings.push(drawCurves(told("accuracy_by", {across}), across, accuracies, marks, 1, references));
  }
  return drawings;
}
