/** The nodes of a graph in the colour of what is true of them, with a dot where the answer is another. */
function drawNodes({title, places, answers}, {epoch}) {
  const {edges, known, names, truth, unlabelled} = lesson.graph;
  const box = sectionOf("nodes", make("canvas", {width: 520, height: 360}), make("p", {class: "legend"}));
  const others = places.map((_, node) => node).filter(node => !known.includes(node) && !unlabelled.includes(node));
  const right = answers ? others.filter(node => answers[node] === truth[node]).length : 0;
  box.querySelector("h2").textContent =
    told(answers ? "nodes_right_at" : "nodes_at", {title, epoch, right, count: others.length});
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
    const of = unlabelled.includes(node) ? undefined : truth ? truth[node] : 0;
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
  box.querySelector(".legend").replaceChildren(...legendOf(lesson.classes, told(unlabelled.length ? "marks_and_hollow" : "marks")));
}

momentDrawers.graph = drawNodes;
