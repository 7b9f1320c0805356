// A glass over a picture: the spot under the pointer, several times as large, beside it.
const SVG = "http://www.w3.org/2000/svg";

// In a drawing `svg` whose picture `href` lies in `box` {x, y, width, height}; `radius` in units of the drawing.
export function loupe(svg, href, box, radius, times = 4) {
  const make = (name, attributes, parent) => {
    const element = document.createElementNS(SVG, name);
    for (const [key, value] of Object.entries(attributes)) element.setAttribute(key, value);
    parent.append(element);
    return element;
  };
  const group = make("g", { class: "loupe", "pointer-events": "none", visibility: "hidden" }, svg);
  const clip = make("clipPath", { id: "loupe-clip" }, group);
  make("circle", { r: radius }, clip);
  make("circle", { r: radius, class: "behind" }, group);
  const inner = make("g", { "clip-path": "url(#loupe-clip)" }, group);
  const image = make("image", { href, width: box.width, height: box.height, preserveAspectRatio: "none" }, inner);
  make("path", { class: "cross", d: `M${-radius},0H${radius}M0,${-radius}V${radius}` }, group);
  make("circle", { r: radius, class: "rim" }, group);
  return {
    show(x, y) {
      const view = svg.viewBox.baseVal;
      const away = radius * 1.35;
      const left = x - view.x > 2.6 * radius ? x - away : x + away;
      const up = y - view.y > 2.6 * radius ? y - away : y + away;
      group.setAttribute("transform", `translate(${left} ${up})`);
      image.setAttribute("transform", `scale(${times}) translate(${box.x - x} ${box.y - y})`);
      group.setAttribute("visibility", "visible");
    },
    hide() {
      group.setAttribute("visibility", "hidden");
    },
    remove() {
      group.remove();
    },
  };
}
