/*
 * A network drawn as columns on ruled paper, a cell for each unit, as the worksheet has its numbers:
 * both pages draw it, from columns and links that are worked out elsewhere.
 *
 * A column is {name, cells, isHere, isAhead}; a cell {name, number, title, marks, pick}, or with a picture
 * {shape: [rows, columns], numbers, patch}. A link is {from, to, lines} between two columns, a line
 * {from, to, number, title, marks, pick}; without a number it is plain.
 */

/** The most cells of a column that are drawn one by one. */
const mostCells = 24;

const columnLook = {cell: 76, low: 15, high: 21, head: 22, names: 96, picture: 44, gap: 3};

/** How high a cell is, by how many there are. */
const heightOf = column => column.cells[0]?.shape ? columnLook.picture + columnLook.gap
  : column.cells.length > 10 ? columnLook.low : columnLook.high;

/** What a cell of numbers is drawn as: tinted by its size among the others. */
function drawCell(cell, {x, y, high, largest, isAhead}) {
  const share = isAhead || !Number.isFinite(cell.number) ? 0 : Math.min(1, Math.abs(cell.number) / largest);
  const tone = cell.number > 0 ? "above" : cell.number < 0 ? "below" : "";
  const box = svg("g", {class: `cell ${tone} ${cell.marks ?? ""}`, role: "button", tabindex: "-1", "aria-label": cell.title,
                        style: `--size: ${share.toFixed(3)}`});
  box.append(svg("title", {}, cell.title), svg("rect", {x, y, width: columnLook.cell, height: high - 1}),
             svg("text", {x: x + columnLook.cell - 5, y: y + high / 2 + 3.5, "text-anchor": "end"},
                 isAhead ? "" : cell.isBlank ? "▢" : formatNumber(cell.number, 4)));
  if (cell.pick) {
    box.addEventListener("click", cell.pick);
    box.addEventListener("keydown", event => { if (event.key === "Enter" || event.key === " ") cell.pick(); });
  }
  return box;
}

/** A channel as a small picture, with the patch that is looked at. */
function drawChannel(cell, {x, y, isAhead}) {
  const [rows, columns] = cell.shape;
  const side = columnLook.picture / Math.max(rows, columns);
  const largest = largestOf(cell.numbers) || 1;
  const left = x + (columnLook.cell - side * columns) / 2;
  const box = svg("g", {class: `cell ${cell.marks ?? ""}`, role: "button", tabindex: "-1", "aria-label": cell.title});
  box.append(svg("title", {}, cell.title), svg("rect", {class: "frame", x: left, y, width: side * columns, height: side * rows}));
  if (!isAhead && !cell.isBlank) {
    cell.numbers.forEach((number, at) => {
      if (number === 0 || !Number.isFinite(number)) return;
      const [row, column] = [Math.floor(at / columns), at % columns];
      const point = svg("rect", {class: number > 0 ? "above" : "below", x: left + column * side, y: y + row * side, width: side, height: side});
      point.style.setProperty("--size", (Math.abs(number) / largest).toFixed(3));
      box.append(point);
    });
  }
  if (cell.patch) {
    const {row, column, high, wide} = cell.patch;
    box.append(svg("rect", {class: "patch", x: left + column * side, y: y + row * side, width: wide * side, height: high * side}));
  }
  if (cell.pick) {
    box.addEventListener("click", event => {
      const place = box.querySelector(".frame").getBoundingClientRect();
      const at = (position, start, size, count) => Math.max(0, Math.min(count - 1, Math.floor((position - start) / size * count)));
      cell.pick(at(event.clientY, place.top, place.height, rows), at(event.clientX, place.left, place.width, columns));
    });
    box.addEventListener("keydown", event => { if (event.key === "Enter" || event.key === " ") cell.pick(0, 0); });
  }
  return box;
}

/** The drawing of a network. */
function drawColumns(columns, links, label) {
  const {cell, head, names} = columnLook;
  const tall = Math.max(...columns.map(each => each.cells.length * heightOf(each)));
  const wide = Math.max(880, names * 2 + columns.length * (cell + 40));
  const apart = columns.length > 1 ? (wide - 2 * names - cell) / (columns.length - 1) : 0;
  const top = head + 14;
  const x = at => names + at * apart;
  const y = (at, of) => top + (tall - columns[at].cells.length * heightOf(columns[at])) / 2 + of * heightOf(columns[at]);
  const middle = (at, of) => y(at, of) + (heightOf(columns[at]) - 1) / 2;
  const drawing = svg("svg", {viewBox: `0 0 ${wide} ${top + tall + 8}`, class: "columns", role: "group", "aria-label": label});
  const lower = svg("g", {});
  const marked = svg("g", {});
  for (const link of links) {
    const largest = largestOf(link.lines.map(line => line.number ?? 0)) || 1;
    const isFar = link.to - link.from > 1;
    for (const line of link.lines) {
      const [left, right] = [x(link.from) + cell, x(link.to)];
      const [from, to] = [middle(link.from, line.from), middle(link.to, line.to)];
      // A skip passes above what lies between.
      const path = isFar ? `M${left} ${from}C${left + 30} ${top - 16} ${right - 30} ${top - 16} ${right} ${to}` : `M${left} ${from}L${right} ${to}`;
      const share = line.number === undefined ? 0 : Math.abs(line.number) / largest;
      const tone = line.number > 0 ? "above" : line.number < 0 ? "below" : "";
      const drawn = svg("path", {class: `link ${line.number === undefined ? "plain" : tone} ${line.marks ?? ""}`, d: path,
                                 style: `--size: ${Number.isFinite(share) ? share.toFixed(3) : 1}`});
      if (line.title) drawn.append(svg("title", {}, line.title));
      if (line.pick) drawn.addEventListener("click", line.pick);
      (line.marks ? marked : lower).append(drawn);
    }
  }
  drawing.append(lower, marked);
  columns.forEach((column, at) => {
    const group = svg("g", {class: `column${column.isHere ? " here" : ""}${column.isAhead ? " ahead" : ""}`});
    const title = column.name.length > 15 ? `${column.name.slice(0, 14)}…` : column.name;
    group.append(svg("text", {class: "head", x: x(at) + cell / 2, y: head - 6, "text-anchor": "middle"}, title),
                 svg("path", {class: "margin", d: `M${x(at) - 3} ${top - 6}V${top + tall + 4}`}));
    const largest = largestOf(column.cells.map(each => each.number)) || 1;
    column.cells.forEach((each, of) => {
      const place = {x: x(at), y: y(at, of), high: heightOf(column), largest, isAhead: column.isAhead};
      group.append(each.shape ? drawChannel(each, place) : drawCell(each, place));
      const hasRoom = apart - cell > names;
      const side = at === 0 ? -1 : at === columns.length - 1 || (column.isNamed && hasRoom) ? 1 : 0;
      if (!each.name || side === 0) return;
      const text = each.name.length > 14 ? `${each.name.slice(0, 13)}…` : each.name;
      group.append(svg("text", {class: "name", x: side < 0 ? x(at) - 8 : x(at) + cell + 5, y: middle(at, of) + 3.5,
                                "text-anchor": side < 0 ? "end" : "start"}, text));
    });
    drawing.append(group);
  });
  walkWithArrows(drawing);
  return drawing;
}

/** One cell is in the order of the Tab key; arrows go from cell to cell, and from column to column. */
function walkWithArrows(drawing) {
  const columns = [...drawing.querySelectorAll(".column")].map(each => [...each.querySelectorAll(".cell")]);
  const first = drawing.querySelector(".cell.asked") ?? columns[0]?.[0];
  first?.setAttribute("tabindex", "0");
  drawing.addEventListener("keydown", event => {
    const [across, down] = {ArrowRight: [1, 0], ArrowLeft: [-1, 0], ArrowDown: [0, 1], ArrowUp: [0, -1]}[event.key] ?? [0, 0];
    const at = columns.findIndex(each => each.includes(event.target));
    if (at < 0 || (!across && !down)) return;
    const column = columns[at + across] ?? columns[at];
    const next = column[Math.max(0, Math.min(column.length - 1, columns[at].indexOf(event.target) + down))];
    for (const each of drawing.querySelectorAll('.cell[tabindex="0"]')) each.setAttribute("tabindex", "-1");
    next.setAttribute("tabindex", "0");
    next.focus();
    event.preventDefault();
    event.stopPropagation();
  });
}
