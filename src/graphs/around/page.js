/* The graph beside a number of one of its nodes: who the node takes from, and how large a share. */
const tableCalled = name => minibatch().tables.findIndex(each => each.name === name && each.kind === "value");

/** The node that a number belongs to; of a number between two nodes the one that takes. */
function nodeOf(spot) {
  const {shape, roles} = tableOf(spot);
  return roles[0] === "node" ? indexOf(shape, spot.place)[0] : undefined;
}

/** A number of a matrix between nodes. */
function betweenNodes(table, node, other) {
  return {table, place: node * data.graph.places.length + other};
}

/** A name as long as there is room for beside a node; its end is kept. */
const shortName = name => name.length <= 20 ? name : `${name.slice(0, 11)}…${name.slice(-8)}`;

/** Where a label beside a node lies over no other one; undefined where that is nowhere. */
function freeBox(x, y, text, others, size) {
  const [wide, high, away] = [6.4 * text.length, 13, 8];
  const middle = Math.min(Math.max(x - wide / 2, 0), size.across - wide);
  const places = [[middle, y - away - high], [middle, y + away], [x + away, y - high / 2],
                  [x - away - wide, y - high / 2], [x + away, y - away - high], [x - away - wide, y - away - high],
                  [x + away, y + away], [x - away - wide, y + away], [middle, y - away - 2 * high], [middle, y + away + high]];
  const boxes = places.map(([left, top]) => ({left, top, right: left + wide, bottom: top + high}));
  const meets = (a, b) => a.left < b.right && b.left < a.right && a.top < b.bottom && b.top < a.bottom;
  return boxes.find(box => box.left >= 0 && box.right <= size.across && box.top >= 0 && box.bottom <= size.down &&
                           !others.some(other => meets(box, other)));
}

/** The graph, with a node, those it takes from, and their shares. */
function drawGraph(spot) {
  const node = data.graph ? nodeOf(spot) : undefined;
  if (node === undefined) return [];
  const [adjacency, shares] = [data.graph.adjacency, data.graph.shares].map(tableCalled);
  const size = {across: 560, down: 190, room: 26};
  const [x, y] = ["across", "down"].map((axis, at) => other => {
    const share = data.graph.places[other][at];
    return size.room + (at ? 1 - share : share) * (size[axis] - 2 * size.room);
  });
  const nodes = data.graph.places.map((_, other) => other);
  const isJoined = (to, from) => numberAt(betweenNodes(adjacency, to, from)) !== 0;
  const givers = nodes.filter(other => other !== node && isJoined(node, other));
  const drawing = svg("svg", {viewBox: `0 0 ${size.across} ${size.down}`, role: "img", class: "nodes",
                              "aria-label": told("node_and_neighbours", {node: calledAt("node", node)})});
  const edge = (to, from, of) => drawing.append(
    svg("line", {class: of, x1: x(to), y1: y(to), x2: x(from), y2: y(from)}));
  for (const to of nodes) for (const from of nodes) if (from < to && (isJoined(to, from) || isJoined(from, to))) edge(to, from, "edge");
  for (const giver of givers) edge(node, giver, "taken");
  const truth = tableCalled("y");
  const hasClasses = truth >= 0 && data.names.class.length > 0;
  for (const other of nodes) {
    const of = hasClasses ? numberAt({table: truth, place: other}) : 0;
    const counts = minibatch().counting.includes(other);
    if (counts) drawing.append(svg("circle", {class: "counts", cx: x(other), cy: y(other), r: 8}));
    const asked = other === node ? " asked" : "";
    const dot = svg("circle", {class: `node${asked}`, cx: x(other), cy: y(other), r: asked ? 7 : 4.5});
    if (!data.graph.unlabelled.includes(other)) dot.style.fill = colourOf(of);
    dot.append(svg("title", {}, calledAt("node", other) || told("node", {number: other})));
    drawing.append(dot);
  }
  const labels = [];
  for (const other of [node, ...givers]) {
    const at = shares < 0 ? undefined : betweenNodes(shares, node, other);
    const share = at === undefined ? "" : isHidden(at) ? " ▢" : ` ${formatNumber(numberAt(at), 3)}`;
    const text = `${shortName(calledAt("node", other) || String(other))}${share}`;
    const box = freeBox(x(other), y(other), text, labels, size);
    if (!box) continue;
    labels.push(box);
    drawing.append(svg("text", {x: box.left, y: box.bottom - 3}, text));
  }
  const words = ["ringed_in_loss", ...(data.graph.unlabelled.length ? ["hollow"] : [])];
  const legend = legendOf(data.names.class, ...words.map(word => make("span", {}, told(word))));
  return [make("div", {class: "graph"}, drawing, make("p", {class: "legend"}, ...legend))];
}

/** What a number of the adjacency says, which is given. */
function noteOnEdge(spot) {
  const {shape, roles} = tableOf(spot);
  if (roles[0] !== "node" || roles[1] !== "node") return "";
  const [node, other] = indexOf(shape, spot.place).map(at => calledAt("node", at) || at);
  return told(numberAt(spot) === 0 ? "not_joined" : "takes_from", {node, other});
}

besideNumber.push(drawGraph);
notesOfSubjects.push(noteOnEdge);
