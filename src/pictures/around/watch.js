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

function drawWrong(wrong, moment) {
  const box = sectionOf("wrong", make("div"));
  box.querySelector("h2").textContent = told(wrong.length > 0 ? "wrong_now" : "nothing_wrong", moment);
  box.querySelector("div").replaceChildren(...wrong.map(each => make("figure", {}, canvasOf(each),
    make("figcaption", {}, each.caption, make("b", {}, told("said", each))))));
}

momentDrawers.wrong = drawWrong;
