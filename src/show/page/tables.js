/** The longest window on a table; the rest is reached with its buttons. */
const windowRows = 10;
const windowColumns = 10;

/** How a table is laid out: rank 0 and 1 in one row, more than two axes stacked. */
function layoutOf(table) {
  const shape = table.shape;
  const columns = shape.length ? shape.at(-1) : 1;
  const rows = table.numbers.length / columns;
  return {rows, columns};
}

/** The name of a place along an axis, by the role of the axis alone; empty where it has none. */
const calledAt = (role, at) => data.names[role]?.[at] ?? "";

function axisLabel(table, axis, at) {
  const role = table.roles[axis] || "";
  return {role, text: `${at} ${calledAt(role, at)}`.trim()};
}

/** A label for a row: the place along all axes but the last. */
function rowLabel(table, row) {
  if (table.shape.length < 2) return "";
  const index = indexOf(table.shape.slice(0, -1), row);
  if (index.length > 1) return `[${index.join(",")},·]`;
  const {role, text} = axisLabel(table, 0, index[0]);
  return calledAt(role, index[0]) ? text : `${role} ${text}`.trim();
}

/** A tensor as a table of numbers, each of which can be asked where it came from. */
class NumberTable extends HTMLElement {
  /** @param {number} table which one of the minibatch
   *  @param {object} options share: other numbers of the same shape; all: no window */
  show(table, options = {}) {
    this.table = table;
    this.options = options;
    this.from = {row: 0, column: 0};
    this.draw();
    return this;
  }

  get content() { return minibatch().tables[this.table]; }
  get numbers() { return this.options.share ?? this.content.numbers; }

  /** Moves the window so that a place is in it. */
  reveal(place) {
    const {columns} = layoutOf(this.content);
    const row = Math.floor(place / columns);
    const column = place % columns;
    const move = (from, at, size) => at < from || at >= from + size ? Math.floor(at / size) * size : from;
    const from = {row: move(this.from.row, row, windowRows),
                  column: move(this.from.column, column, windowColumns)};
    if (from.row === this.from.row && from.column === this.from.column) return;
    this.from = from;
    this.draw();
  }

  draw() {
    const {rows, columns} = layoutOf(this.content);
    const last = {row: Math.min(rows, this.from.row + windowRows),
                  column: Math.min(columns, this.from.column + windowColumns)};
    const largest = Math.max(...this.numbers.map(each => Math.abs(asNumber(each)))
      .filter(Number.isFinite), 1e-300);
    const body = make("tbody");
    for (let row = this.from.row; row < last.row; ++row) {
      const line = make("tr");
      if (rows > 1 || this.content.shape.length > 1) {
        line.append(make("th", {scope: "row"}, rowLabel(this.content, row)));
      }
      for (let column = this.from.column; column < last.column; ++column) {
        line.append(this.cell(row * columns + column, largest));
      }
      body.append(line);
    }
    const table = make("table", {role: "grid"}, this.caption(), ...this.head(last.column), body);
    this.replaceChildren(table, ...this.windowNote(rows, columns, last));
    this.addKeys(table);
  }

  caption() {
    const {name, shape, roles, kind, given} = this.content;
    const axes = shape.map((extent, axis) => `${roles[axis]} ${extent}`.trim()).join(" × ");
    const what = this.options.share ? `a share of ${name}` : name;
    const note = given ?? (kind === "remembered" ? "remembered" : "");
    return make("caption", {}, make("b", {}, what),
                make("span", {class: "faint"}, ` ${axes ? `[${axes}]` : ""} ${note}`));
  }

  head(lastColumn) {
    const axis = this.content.shape.length - 1;
    if (axis < 0) return [];
    const line = make("tr");
    if (axis > 0) line.append(make("th", {}, axisLabel(this.content, axis, 0).role));
    for (let column = this.from.column; column < lastColumn; ++column) {
      line.append(make("th", {scope: "col"}, axisLabel(this.content, axis, column).text));
    }
    return [make("thead", {}, line)];
  }

  cell(place, largest) {
    const spot = {table: this.table, place};
    const number = asNumber(this.numbers[place]);
    const cell = make("td", {tabindex: "-1", "data-place": place});
    if (!this.options.share && isHidden(spot)) {
      cell.append(blankInput(spot));
      return cell;
    }
    cell.textContent = formatNumber(number);
    cell.title = `${nameOf(spot)} = ${formatNumber(number, 17)}`;
    const isData = this.content.given === "given";
    if (number > 0 && !isData) cell.classList.add("above");
    if (number < 0 && !isData) cell.classList.add("below");
    cell.style.setProperty("--size", Math.min(1, Math.abs(number) / largest).toFixed(3));
    if (isAnswered(spot)) cell.classList.add("right");
    return cell;
  }

  windowNote(rows, columns, last) {
    if (rows <= windowRows && columns <= windowColumns) return [];
    const move = (axis, by, limit) => () => {
      this.from[axis] = Math.max(0, Math.min(this.from[axis] + by, limit - 1));
      this.draw();
      markUsed();
    };
    const part = (word, axis, size, count) => count <= size ? [] : [
      make("button", {type: "button", "aria-label": `earlier ${word}`, onclick: move(axis, -size, count)}, "◂"),
      `${word} ${this.from[axis]} to ${last[axis] - 1} of ${count}`,
      make("button", {type: "button", "aria-label": `later ${word}`,
                      ...(last[axis] >= count ? {disabled: ""} : {}), onclick: move(axis, size, count)}, "▸"),
    ];
    return [make("div", {class: "window"}, ...part("rows", "row", windowRows, rows),
                 ...part("columns", "column", windowColumns, columns))];
  }

  /** One cell is in the order of the Tab key; arrows move from cell to cell. */
  addKeys(table) {
    const cells = [...table.querySelectorAll("td")];
    if (cells.length) cells[0].tabIndex = 0;
    const width = table.querySelector("tbody tr")?.querySelectorAll("td").length ?? 1;
    const moves = {ArrowRight: 1, ArrowLeft: -1, ArrowDown: width, ArrowUp: -width};
    table.addEventListener("keydown", event => {
      if (event.target.tagName !== "TD") return;
      const at = cells.indexOf(event.target);
      if (event.key === "Enter" || event.key === " ") {
        this.ask(event.target);
      } else if (event.key in moves) {
        const next = cells[at + moves[event.key]];
        if (next) {
          cells.forEach(each => { each.tabIndex = -1; });
          next.tabIndex = 0;
          (next.querySelector("input") ?? next).focus();
        }
      } else {
        return;
      }
      event.preventDefault();
    });
    table.addEventListener("click", event => {
      const cell = event.target.closest("td");
      if (cell && event.target.tagName !== "INPUT") this.ask(cell);
    });
  }

  ask(cell) {
    ask({table: this.table, place: Number(cell.dataset.place)}, true);
  }
}
customElements.define("number-table", NumberTable);

/** Marks the number that is asked about, and those it came from, in every table on the desk. */
function markUsed() {
  const asked = shown.asked;
  const used = asked ? spotsIn(formulaOf(asked)) : [];
  for (const table of document.querySelectorAll("#desk number-table")) {
    for (const cell of table.querySelectorAll("td")) {
      const place = Number(cell.dataset.place);
      const isHere = spot => spot.table === table.table && spot.place === place;
      cell.classList.toggle("asked", Boolean(asked) && isHere(asked));
      cell.classList.toggle("used", used.some(isHere));
    }
  }
}
