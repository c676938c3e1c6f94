/* What passes through the parts of a network: how widely numbers are spread, and how long the
   gradient is that comes back, beside a bar as long as its logarithm. */
function depthTable(parts) {
  const lengths = parts.map(part => part.arrived).filter(length => length > 0 && Number.isFinite(length));
  const [low, high] = [Math.min(...lengths), Math.max(...lengths)].map(Math.log10);
  const share = length => length > 0 && high > low ? (Math.log10(length) - low) / (high - low) : 0;
  const head = ["part", "spread", "∂ arrived", "∂ weights", "dead", ""];
  const table = make("table", {class: "depth"},
                     make("tr", {}, ...head.map(each => make("th", {scope: "col"}, each))));
  for (const part of parts) {
    const bar = make("td", {class: "bar"});
    bar.style.setProperty("--share", share(part.arrived).toFixed(3));
    table.append(make("tr", {}, make("th", {scope: "row"}, part.part),
      make("td", {}, formatNumber(part.spread, 3)), make("td", {}, formatNumber(part.arrived, 3)),
      make("td", {}, part.learnt > 0 ? formatNumber(part.learnt, 3) : ""),
      make("td", {}, part.dead > 0 ? `${Math.round(100 * part.dead)} %` : ""), bar));
  }
  return table;
}

/** Whether there is more than one part to look through. */
const isDeep = parts => parts.filter(part => part.learns).length > 1;
