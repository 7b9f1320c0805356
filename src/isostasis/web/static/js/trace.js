// Following an edge of the photo: the way between clicks is asked of the server, solid where it is set, dotted to the
// pointer; a glass shows the spot. Closing asks for the whole ring once more, and tells where two edges run side by side.
import { latestOnly } from "./parts.js";
import { loupe } from "./loupe.js";

const SVG = "http://www.w3.org/2000/svg";
const GLASS_PX = 50;

function drawn(svg, className) {
  const line = document.createElementNS(SVG, "polyline");
  line.setAttribute("class", className);
  svg.append(line);
  return line;
}

// `onScreen` takes {x, y} in mm to px of the drawing.
export function tracer(svg, url, tell, onScreen) {
  const photo = svg.querySelector("#photo");
  const box = Object.fromEntries(["x", "y", "width", "height"].map((name) => [name, Number(photo.getAttribute(name))]));
  const glass = loupe(svg, photo.getAttribute("href"), box, GLASS_PX);
  const set = drawn(svg, "stroke traced");
  const offered = drawn(svg, "stroke offered");
  const clicks = [];
  const ways = []; // ways[n]: points from click n to n + 1; null: straight, by hand
  let byHand = false;
  let closed = null; // what closing brought: {line, beside_mm, ...}
  let other = false;

  const pairs = (points) => JSON.stringify(points.map(({ x, y }) => [Math.round(x * 100) / 100, Math.round(y * 100) / 100]));
  const px = (points) => points.map(([x, y]) => onScreen({ x, y }).map((one) => one.toFixed(1)).join(",")).join(" ");
  const straight = (number) => [[clicks[number].x, clicks[number].y], [clicks[number + 1].x, clicks[number + 1].y]];

  function show() {
    if (closed) {
      set.setAttribute("points", px([...closed.line, closed.line[0]]));
      offered.setAttribute("points", "");
      return;
    }
    const points = clicks.length ? [[clicks[0].x, clicks[0].y]] : [];
    for (let number = 0; number < clicks.length - 1; number += 1) points.push(...(ways[number] ?? straight(number)));
    set.setAttribute("points", px(points));
  }

  const asks = latestOnly((text, address) => {
    if (closed || !text.startsWith("{")) return;
    const { first, segments } = JSON.parse(text);
    const sent = JSON.parse(new URL(address, window.location.href).searchParams.get("clicks")).length;
    segments.forEach((way, index) => {
      const number = first + index;
      if (number < clicks.length - 1 && ways[number] !== null) ways[number] = way;
      else if (number === clicks.length - 1 && sent > clicks.length) offered.setAttribute("points", px(way));
    });
    show();
  });

  return {
    clicks,
    get closed() {
      return closed;
    },
    get other() {
      return other;
    },
    click(place) {
      if (closed) return;
      if (clicks.length) ways.push(byHand ? null : undefined);
      clicks.push(place);
      offered.setAttribute("points", "");
      if (clicks.length > 1 && !byHand) asks.ask(`${url}?clicks=${pairs(clicks)}`);
      show();
    },
    hover(place) {
      glass.show(...onScreen(place));
      if (closed || !clicks.length) return;
      if (byHand) offered.setAttribute("points", px([[clicks.at(-1).x, clicks.at(-1).y], [place.x, place.y]]));
      else asks.ask(`${url}?clicks=${pairs([...clicks, place])}`);
    },
    away: () => glass.hide(),
    back() {
      if (closed) closed = null;
      else {
        clicks.pop();
        ways.pop();
      }
      offered.setAttribute("points", "");
      show();
    },
    hand() {
      byHand = !byHand;
      tell(byHand ? "By hand from here: straight from click to click." : "Following again.");
    },
    // The ring once round; true where nothing is left to be asked.
    async close() {
      if (closed || ways.includes(null)) return true;
      asks.drop();
      const answer = await fetch(`${url}?closed=1&clicks=${pairs(clicks)}${other ? "&other=1" : ""}`, { headers: { "HX-Request": "true" } });
      if (!answer.ok) return true; // saving says what is wrong
      closed = await answer.json();
      show();
      if (closed.beside_mm === null) return true;
      const side = closed.beside_mm > 0 ? "outside" : "inside";
      tell(
        `Two edges run side by side, the other ${Math.abs(closed.beside_mm).toFixed(1)} mm ${side}. Close it again to keep this one.`,
      );
      return false;
    },
    async swap() {
      if (!closed) return;
      other = !other;
      closed = null;
      await this.close();
    },
    // What is sent: clicks for the server to follow, or, partly by hand, the line as it stands.
    line() {
      if (!ways.includes(null)) return { tool: "follow an edge", points: clicks.map(({ x, y }) => [x, y]) };
      const points = [[clicks[0].x, clicks[0].y]];
      for (let number = 0; number < clicks.length - 1; number += 1) points.push(...(ways[number] ?? straight(number)).slice(1));
      return { tool: "corners", points };
    },
    remove() {
      for (const part of [glass, set, offered]) part.remove();
    },
  };
}
