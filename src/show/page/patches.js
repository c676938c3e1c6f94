/* What a window meets on a picture, as it lies there. */

/** Where a number lies on a picture; null where its table has no rows and columns. */
function onPicture(spot) {
  if (!isSpot(spot)) return null;
  const {roles, shape} = tableOf(spot);
  const [down, across] = [roles.indexOf("row"), roles.indexOf("column")];
  if (down < 0 || across < 0) return null;
  const index = indexOf(shape, spot.place);
  const which = index.map((at, axis) => `${roles[axis]} ${at}`.trim())
    .filter((_, axis) => axis !== down && axis !== across).join(", ");
  return {spot, row: index[down], column: index[across], which};
}

/** The products in a sum whose factors lie on pictures, for each pair of pictures. */
function patchesOf(formula) {
  if (!isKind(formula, "+")) return [];
  const patches = new Map();
  for (const term of formula.slice(1)) {
    if (!isKind(term, "*") || term.length !== 3) continue;
    const [met, by] = [onPicture(term[1]), onPicture(term[2])];
    if (!met || !by) continue;
    const key = [met.spot.table, met.which, by.spot.table, by.which].join("|");
    if (!patches.has(key)) patches.set(key, []);
    patches.get(key).push({met, by});
  }
  return [...patches.values()];
}

const inOrder = numbers => [...new Set(numbers)].sort((a, b) => a - b);

/** One factor of each product, or the product, in its place. */
function patchGrid(products, title, cellOf) {
  const rows = inOrder(products.map(({met}) => met.row));
  const columns = inOrder(products.map(({met}) => met.column));
  const lines = rows.map(row => make("tr", {}, ...columns.map(column => {
    const here = products.find(({met}) => met.row === row && met.column === column);
    return here ? cellOf(here) : make("td");
  })));
  return make("table", {}, make("caption", {}, title), make("tbody", {}, ...lines));
}

function patchCell(number, spot) {
  const cell = make("td", {}, formatNumber(number, 4));
  if (number > 0) cell.classList.add("above");
  if (number < 0) cell.classList.add("below");
  if (spot) {
    cell.title = nameOf(spot);
    cell.addEventListener("click", () => ask(spot));
  }
  return cell;
}

/** A patch, and what it is multiplied by. */
function factorsOf(products) {
  const [{met, by}] = products;
  const isTurned = products.some(each => (each.met.row > met.row && each.by.row < by.row) ||
                                         (each.met.column > met.column && each.by.column < by.column));
  const titleOf = ({spot, which}) => [tableOf(spot).name, which].filter(Boolean).join(", ");
  const factor = of => each => patchCell(numberAt(each[of].spot), each[of].spot);
  return [patchGrid(products, titleOf(met), factor("met")), "×",
          patchGrid(products, isTurned ? told("turned", {name: titleOf(by)}) : titleOf(by), factor("by"))];
}

/** The same, with the products and their sum. */
function drawPatch(products) {
  const product = each => numberAt(each.met.spot) * numberAt(each.by.spot);
  const sum = products.reduce((total, each) => total + product(each), 0);
  return make("div", {class: "patch"}, ...factorsOf(products), "=",
              patchGrid(products, told("products"), each => patchCell(product(each))),
              make("span", {class: "faint"}, told("together", {sum: formatNumber(sum)})));
}

/** The patches of a formula that are drawn; what is large, and more than a few, is not. */
function drawnPatchesOf(formula) {
  const most = {patches: 4, places: 49};
  const isOpen = ({met, by}) => !isHidden(met.spot) && !isHidden(by.spot);
  const patches = patchesOf(formula);
  return patches.flat().every(isOpen)
    ? patches.filter((products, at) => at < most.patches && products.length <= most.places) : [];
}

/** The patches in a formula, and a word about those that are left out. */
function drawPatches(formula) {
  const patches = drawnPatchesOf(formula);
  if (!patches.length) return [];
  const left = patchesOf(formula).length - patches.length;
  const rest = left > 0
    ? [make("p", {class: "faint"}, told(left > 1 ? "more_pictures" : "one_more_picture", {count: left}))] : [];
  return [make("div", {class: "patches"}, ...patches.map(drawPatch), ...rest)];
}
