/** The least rows and columns of a table that are shown at once; the rest is reached with its buttons. */
const leastShown = 10;

/** The width of a point of a picture and of the gap between two pictures, in rem (page.css). */
const pointWidth = 1.17;
const pictureGap = 0.7;

/** The room on the desk and in the window, in rem. */
function room() {
  const rem = parseFloat(getComputedStyle(document.documentElement).fontSize);
  return {wide: (document.getElementById("desk").clientWidth || 60 * rem) / rem, high: window.innerHeight / rem};
}

/** The room for pictures beside the labels of their rows, in rem. */
const roomForPictures = () => (view.isSlide ? 26 : room().wide - 4);

/** How many rows and columns of numbers a table shows: more in a large window, as many on every slide. */
function shownAtOnce() {
  if (view.isSlide) return {rows: leastShown, columns: leastShown};
  const {wide, high} = room();
  return {rows: Math.max(leastShown, Math.floor((high - 33) / 2)),
          columns: Math.max(leastShown, Math.floor((wide - 8) / 5))};
}

const placesAlong = (axes, shape) => axes.reduce((places, axis) => places * shape[axis], 1);

/** How a tensor is laid out: which axes number tables side by side, go down, and go across. */
class Layout {
  constructor({shape, roles, layout}) {
    this.shape = shape;
    this.onPicture = roles.includes("row") && roles.includes("column");
    [this.beside, this.down, this.across] = layout;
    this.width = placesAlong(this.across, shape);
    this.rows = placesAlong(this.down, shape);
    this.columns = placesAlong(this.beside, shape) * this.width;
  }

  get isPicture() { return this.beside.length > 0; }

  /** Whether its tables are rows and columns of pictures. */
  get hasPictures() { return this.down.length === 1 && this.across.length === 1 && this.onPicture; }

  /** The row and the column of a place; columns are counted through all tables. */
  seat(place) {
    const index = indexOf(this.shape, place);
    const along = axes => axes.reduce((at, axis) => at * this.shape[axis] + index[axis], 0);
    return {row: along(this.down), column: along(this.beside) * this.width + along(this.across)};
  }

  /** The index of a seat. */
  index(row, column) {
    const index = this.shape.map(() => 0);
    const set = (axes, at) => [...axes].reverse().forEach(axis => {
      index[axis] = at % this.shape[axis];
      at = Math.floor(at / this.shape[axis]);
    });
    set(this.down, row);
    set(this.beside, Math.floor(column / this.width));
    set(this.across, column % this.width);
    return index;
  }

  place(row, column) {
    return this.index(row, column).reduce((place, at, axis) => place * this.shape[axis] + at, 0);
  }

  /** How much is shown at once: of pictures, whole ones where they are not too wide. */
  window(isDrawn) {
    if (isDrawn) {
      const most = 54;
      const room = roomForPictures();
      const pictures = Math.max(1, Math.floor((room + pictureGap) / (this.width * pointWidth + pictureGap)));
      return {rows: most, columns: this.width * pointWidth > room ? Math.floor(room / pointWidth) : pictures * this.width};
    }
    const most = 14;
    if (!this.isPicture) return shownAtOnce();
    const pictures = Math.max(1, Math.floor(most / this.width));
    return {rows: most, columns: this.width > most ? leastShown : pictures * this.width};
  }
}

/** The name of a place along an axis, by the role of the axis alone; empty where it has none. */
const calledAt = (role, at) => data.names[role]?.[at] ?? "";

/** The same on a table, where the 1 for a bias that is taken as an input has a name, too. */
function calledOn(table, axis, at) {
  const role = table.roles[axis];
  const features = data.names.feature.length;
  const isBias = role === "input" ? at === table.shape[axis] - 1
    : role === "feature" && features > 0 && at === features;
  return isBias ? told("bias") : calledAt(role, at);
}

/** A place along an axis: `2 peak`; with the role where it has no name and none is told beside it. */
function axisLabel(table, axis, at, isAlone = false) {
  const role = table.roles[axis];
  const called = calledOn(table, axis, at);
  return (isAlone && !called ? `${role} ${at}` : `${at} ${called}`).trim();
}

/** A label for a row: the place along all axes that go down. */
function rowLabel(table, {down}, index) {
  if (down.length > 1) return `[${down.map(axis => index[axis]).join(",")},·]`;
  return down.map(axis => axisLabel(table, axis, index[axis], true)).join("");
}

/** A tensor as a table of numbers, each of which can be asked where it came from. */
class NumberTable extends HTMLElement {
  /** @param {number} table which one of the minibatch
   *  @param {object} options share: other numbers of the same shape; label: what they are;
   *                        printed: the rows and columns that are shown, on paper */
  show(table, options = {}) {
    this.table = table;
    this.options = options;
    const {printed} = options;
    this.from = {row: printed?.rows[0] ?? 0, column: printed?.columns[0] ?? 0};
    this.draw();
    return this;
  }

  get content() { return minibatch().tables[this.table]; }
  get layout() { return new Layout(this.content); }
  get numbers() { return this.options.share ?? this.content.numbers; }

  /** Whether its numbers are drawn as the points of pictures; where some are left blank they are not. */
  get isDrawn() {
    const isBlank = !this.options.share && hasBlank(this.table);
    return this.layout.hasPictures && !shown.asNumbers && !isBlank && !this.options.printed;
  }

  /** Moves the window so that a place is in it. */
  reveal(place) {
    const {layout} = this;
    const {row, column} = layout.seat(place);
    const size = layout.window(this.isDrawn);
    const move = (from, at, by) => at < from || at >= from + by ? Math.floor(at / by) * by : from;
    const from = {row: move(this.from.row, row, size.rows),
                  column: move(this.from.column, column, size.columns)};
    if (from.row === this.from.row && from.column === this.from.column) return;
    this.from = from;
    this.draw();
  }

  draw() {
    const {layout} = this;
    const {rows, columns} = layout;
    const {isDrawn} = this;
    const {printed} = this.options;
    const size = printed ? {rows: printed.rows[1] - printed.rows[0], columns: printed.columns[1] - printed.columns[0]}
                         : layout.window(isDrawn);
    this.classList.toggle("pictures", isDrawn);
    const last = {row: Math.min(rows, this.from.row + size.rows),
                  column: Math.min(columns, this.from.column + size.columns)};
    const largest = largestOf(this.numbers) || 1;
    const body = make("tbody");
    for (let row = this.from.row; row < last.row; ++row) {
      const line = make("tr");
      if (rows > 1 || this.content.shape.length > 1) {
        line.append(make("th", {scope: "row"}, rowLabel(this.content, layout, layout.index(row, 0))));
      }
      for (let column = this.from.column; column < last.column; ++column) {
        const cell = this.cell(layout.place(row, column), largest);
        if (this.beginsTable(column)) cell.classList.add("begins");
        line.append(cell);
      }
      body.append(line);
    }
    const table = make("table", {role: "grid"}, this.caption(), ...this.head(last.column), body);
    this.replaceChildren(table, ...this.windowNote(layout, size, last));
    this.addKeys(table);
  }

  caption() {
    const {name, shape, roles, given} = this.content;
    const axes = shape.map((extent, axis) => `${roles[axis]} ${extent}`.trim()).join(" × ");
    const what = this.options.label ?? (this.options.share ? told("share", {name}) : name);
    const note = given ?? "";
    const turn = this.layout.hasPictures
      ? [make("button", {type: "button", title: "n", onclick: turnPictures},
              told(this.isDrawn ? "numbers" : "pictures"))]
      : [];
    return make("caption", {}, make("b", {}, what),
                make("span", {class: "faint"}, ` ${axes ? `[${axes}]` : ""} ${note} `), ...turn);
  }

  /** Whether a column is the first of a table that stands beside another. */
  beginsTable(column) {
    return column > this.from.column && column % this.layout.width === 0;
  }

  head(lastColumn) {
    const {layout} = this;
    const {beside, across, down} = layout;
    if (!across.length) return [];
    const columns = Array.from({length: lastColumn - this.from.column}, (_, at) => this.from.column + at);
    const corner = text => (down.length ? [make("th", {}, text)] : []);
    const heads = columns.map(column => {
      const index = layout.index(0, column);
      const head = make("th", {scope: "col"}, axisLabel(this.content, across[0], index[across[0]]));
      if (this.beginsTable(column)) head.classList.add("begins");
      return head;
    });
    const lines = [make("tr", {}, ...corner(this.content.roles[across[0]]), ...heads)];
    if (layout.isPicture) {
      const first = columns.filter(column => column === this.from.column || this.beginsTable(column));
      const titles = first.map((column, at) => {
        const index = layout.index(0, column);
        const title = make("th", {scope: "colgroup", class: "title",
                                  colspan: (first[at + 1] ?? lastColumn) - column},
                           beside.map(axis => axisLabel(this.content, axis, index[axis], true)).join(", "));
        if (this.beginsTable(column)) title.classList.add("begins");
        return title;
      });
      lines.unshift(make("tr", {}, ...corner(""), ...titles));
    }
    return [make("thead", {}, ...lines)];
  }

  cell(place, largest) {
    const spot = {table: this.table, place};
    const number = this.numbers[place];
    const cell = make("td", {tabindex: "-1", "data-place": place});
    if (!this.options.share && isHidden(spot)) {
      cell.append(blankInput(spot));
      return cell;
    }
    // Of a sparse matrix a mark where nothing is kept.
    const isKept = number !== 0 || !this.content.is_sparse;
    // What rounding leaves where terms cancel is told by the number behind the mark.
    const isChanged = !this.options.share && numbersNow().isChanged(spot);
    const isResidue = !this.options.share && (isChanged || this.content.residues?.includes(place)) && isLeftByRounding(spot);
    const text = isResidue ? told("residue") : formatNumber(number);
    if (!this.isDrawn) cell.textContent = isKept ? text : "·";
    const note = isResidue ? ` (${told("is_residue")})` : "";
    const said = isChanged ? ` · ${saidOfChange(spot)}` : "";
    cell.title = `${nameOf(spot)} = ${formatNumber(number, 17)}${note}${said}`;
    const isData = this.content.given === "given";
    if (number > 0 && !isData) cell.classList.add("above");
    if (number < 0 && !isData) cell.classList.add("below");
    if (isData) cell.classList.add("given");
    cell.style.setProperty("--size", Math.min(1, Math.abs(number) / largest).toFixed(3));
    if (isAnswered(spot)) cell.classList.add("right");
    if (isChanged) {
      cell.classList.add("changed");
      if (isOwnChange(spot)) cell.classList.add("own");
      if (!this.isDrawn) cell.append(make("small", {}, difference(number, storedAt(spot)).by));
    }
    return cell;
  }

  /** Where the window stands, and how it is moved: whole pictures are counted as tables. */
  windowNote({rows, columns, width, isPicture}, size, last) {
    if (rows <= size.rows && columns <= size.columns) return [];
    if (this.options.printed) {
      const said = [["rows", this.from.row, last.row, rows, size.rows], ["columns", this.from.column, last.column, columns, size.columns]]
        .filter(([, , , count, by]) => count > by)
        .map(([what, first, end, count]) => told("window", {what: told(what), first, last: end - 1, count}));
      return [make("div", {class: "window"}, said.join(", "))];
    }
    const each = isPicture && size.columns % width === 0 ? width : 1;
    const move = (axis, by, limit) => () => {
      this.from[axis] = Math.max(0, Math.min(this.from[axis] + by, limit - 1));
      this.draw();
      markUsed();
    };
    const part = (what, axis, by, count, unit = 1) => count <= by ? [] : [
      make("button", {type: "button", "aria-label": told("earlier", {what}), onclick: move(axis, -by, count)}, "◂"),
      told("window", {what, first: this.from[axis] / unit, last: last[axis] / unit - 1, count: count / unit}),
      make("button", {type: "button", "aria-label": told("later", {what}),
                      ...(last[axis] >= count ? {disabled: ""} : {}), onclick: move(axis, by, count)}, "▸"),
    ];
    return [make("div", {class: "window"}, ...part(told("rows"), "row", size.rows, rows),
                 ...part(told(each > 1 ? "tables" : "columns"), "column", size.columns, columns, each))];
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

/** Shows the numbers of pictures in place of their points, or the other way round. */
function turnPictures() {
  shown.asNumbers = !shown.asNumbers;
  for (const table of document.querySelectorAll("#desk number-table")) table.draw();
  markUsed();
}

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
