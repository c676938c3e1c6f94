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
 * Curves over epochs, their legend beside them.
 * @param {{word: string, label: string, points: [number, number][]}[]} curves
 */
function drawCurves(title, curves, marks, lowest) {
  const box = {left: 60, top: 34, right: 400, bottom: 230};
  const points = curves.flatMap(curve => curve.points).filter(point => Number.isFinite(point[1]));
  if (points.length === 0) return svg("svg", {viewBox: "0 0 540 280"});
  const lastEpoch = Math.max(1, ...points.map(point => point[0]));
  const low = Math.min(lowest, ...points.map(point => point[1]));
  const high = Math.max(...points.map(point => point[1])) || 1;
  const x = epoch => box.left + epoch / lastEpoch * (box.right - box.left);
  const y = value => box.bottom - (value - low) / (high - low || 1) * (box.bottom - box.top);
  const drawing = svg("svg", {viewBox: "0 0 540 280", role: "img", "aria-label": title});
  drawing.append(svg("text", {x: box.left, y: 18, "font-weight": 600}, title));
  for (const value of ticks(low, high)) {
    drawing.append(svg("path", {class: "grid", d: `M${box.left} ${y(value)}H${box.right}`}),
                   svg("text", {x: box.left - 8, y: y(value) + 4, "text-anchor": "end"}, formatNumber(value, 3)));
  }
  for (const epoch of ticks(0, lastEpoch).filter(Number.isInteger)) {
    drawing.append(svg("text", {x: x(epoch), y: box.bottom + 18, "text-anchor": "middle"}, String(epoch)));
  }
  drawing.append(svg("text", {x: (box.left + box.right) / 2, y: box.bottom + 38, "text-anchor": "middle"}, "epoch"));
  for (const epoch of marks) {
    drawing.append(svg("path", {class: "mark", d: `M${x(epoch)} ${box.top}V${box.bottom}`}));
  }
  drawing.append(svg("path", {class: "axis", d: `M${box.left} ${box.top}V${box.bottom}H${box.right}`}));
  const legend = [...curves.map(curve => [curve.word, curve.label, "line"]),
                  ...(marks.length ? [["", "rate changed", "mark"]] : [])];
  legend.forEach(([word, label, kind], at) => {
    const height = box.top + 12 + at * 22;
    drawing.append(svg("path", {class: `${kind} ${word}`, d: `M${box.right + 14} ${height}h26`}),
                   svg("text", {x: box.right + 46, y: height + 4}, label));
  });
  for (const curve of curves) {
    const path = curve.points.filter(point => Number.isFinite(point[1]))
      .map(([epoch, value], at) => `${at ? "L" : "M"}${x(epoch).toFixed(1)} ${y(value).toFixed(1)}`).join("");
    drawing.append(svg("path", {class: `line ${curve.word}`, d: path}));
  }
  return drawing;
}

/** The curves of a run record. */
function curvesOf(run) {
  const series = (word, label, read) => ({
    word, label,
    points: run.epochs.map(each => [each.epoch, read(each) ?? NaN]),
  });
  const marks = run.rate_changes.map(change => change.epoch);
  const has = curve => curve.points.some(point => Number.isFinite(point[1]));
  const losses = [series("running", "running", each => each.running_loss),
                  series("train", "train", each => each.train.loss),
                  series("validation", "validation", each => each.validation?.loss)].filter(has);
  const accuracies = [series("train", "train", each => each.train.accuracy),
                      series("validation", "validation", each => each.validation?.accuracy)].filter(has);
  const drawings = [drawCurves("loss by epoch", losses, marks, 0)];
  if (accuracies.length) drawings.push(drawCurves("accuracy by epoch", accuracies, marks, 1));
  return drawings;
}
