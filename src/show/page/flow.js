/* What passes through the layers of a network: how widely numbers are spread, and how long the
   gradient is that comes back, beside a bar as long as its logarithm. */
function flowTable(layers) {
  const lengths = layers.map(layer => layer.gradient_norm).filter(length => length > 0 && Number.isFinite(length));
  const [low, high] = [Math.min(...lengths), Math.max(...lengths)].map(Math.log10);
  const share = length => length > 0 && high > low ? (Math.log10(length) - low) / (high - low) : 0;
  const head = ["layer", "standard_deviation", "gradient_norm", "weight_gradient_norm", "dead"];
  const table = make("table", {class: "flow"},
                     make("tr", {}, ...head.map(each => make("th", {scope: "col"}, told(each))), make("th")));
  for (const layer of layers) {
    const bar = make("td", {class: "bar"});
    bar.style.setProperty("--share", share(layer.gradient_norm).toFixed(3));
    table.append(make("tr", {}, make("th", {scope: "row"}, layer.layer),
      make("td", {}, formatNumber(layer.standard_deviation, 3)), make("td", {}, formatNumber(layer.gradient_norm, 3)),
      make("td", {}, layer.weight_gradient_norm > 0 ? formatNumber(layer.weight_gradient_norm, 3) : ""),
      make("td", {}, layer.dead > 0 ? told("percent", {number: Math.round(100 * layer.dead)}) : ""), bar));
  }
  return table;
}

/** Whether there is more than one layer to look through. */
const hasFlow = layers => layers.filter(layer => layer.learns).length > 1;
