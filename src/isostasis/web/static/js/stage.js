// Plan and cut as they stand on the page: px of the drawing to mm of the board.
export function stageOf(element) {
  const svg = element.closest("svg.panels");
  const number = (name) => Number(svg.dataset[name]);
  return {
    svg,
    scale: number("scale"),
    left: number("left"),
    bottom: number("planBottom"),
    zero: number("zero"),
    rise: number("rise"),
    width: number("width"),
    depth: number("depth"),
    cell: number("cell"),
  };
}

export function pointIn(svg, event) {
  return new DOMPoint(event.clientX, event.clientY).matrixTransform(svg.getScreenCTM().inverse());
}

// Where a pointer is over the plan, in mm; null beside it.
export function placeOn(svg, event) {
  const point = pointIn(svg, event);
  const [left, top, width, height] = svg.dataset.window.split(" ").map(Number);
  if (point.x < left || point.x > left + width || point.y < top || point.y > top + height) return null;
  const stage = stageOf(svg.firstElementChild);
  return { stage, x: (point.x - stage.left) / stage.scale, y: (stage.bottom - point.y) / stage.scale };
}
