// The relief that can be turned: for each column of the picture a walk over the ground from the front to the back, each
// height painted above what stands before it. Its colours are the plan's own picture, its sides wear the cut's hatches.

const TALL = 1.6; // heights are drawn so many times
const FACES = { foam: "--foam", paper: "--paper-fill", board: "--board", casting: "--paper-fill", water: "--water" };
const MARK = 0.62; // how bright a hatch's mark is on its face
const WALL = 1.6; // mm a mm: steeper is a wall
const BEHIND = 5; // mm behind a wall's edge its own colour is found
const SHADE = 0.68; // how bright a wall is

// A hatch as a mark at s, z in px along and up a side, as the cut draws it: dots for foam, a fold for paper.
const hatches = {
  foam: (s, z) => ((s % 9) - 2) ** 2 + ((z % 9) - 2) ** 2 < 1.2 || ((s % 9) - 6.5) ** 2 + ((z % 9) - 6.5) ** 2 < 1.2,
  paper: (s, z) => Math.abs(((z + 2.5 * Math.abs((s % 8) - 4)) % 8) - 4) < 0.6,
  casting: (s, z) => Math.abs(((s + z) % 10) - 5) < 0.6,
  skin: (s, z) => ((s % 5) - 1.5) ** 2 + ((z % 5) - 1.5) ** 2 < 1,
};

function rgbOf(canvas, name) {
  const pen = document.createElement("canvas").getContext("2d");
  pen.fillStyle = getComputedStyle(canvas).getPropertyValue(name).trim();
  return [1, 3, 5].map((place) => parseInt(pen.fillStyle.slice(place, place + 2), 16));
}

async function pixelsOf(url) {
  const image = new Image();
  image.src = url;
  await image.decode();
  const canvas = document.createElement("canvas");
  [canvas.width, canvas.height] = [image.naturalWidth, image.naturalHeight];
  const pen = canvas.getContext("2d", { willReadFrequently: true });
  pen.drawImage(image, 0, 0);
  return pen.getImageData(0, 0, canvas.width, canvas.height);
}

class Relief {
  constructor(canvas) {
    this.canvas = canvas;
    this.turn = -0.5;
    this.tip = 0.95;
    this.near = 1;
    this.wanted = null;
    this.drawing = false;
  }

  async load(stage) {
    this.wanted = stage;
    const at = `&stage=${encodeURIComponent(stage)}`;
    const [answer, picture] = await Promise.all([fetch(this.canvas.dataset.url + at), pixelsOf(this.canvas.dataset.picture + at)]);
    if (!answer.ok || this.wanted !== stage) return;
    this.model = await answer.json();
    this.picture = picture;
    this.heights = Float32Array.from(this.model.z, (tenths) => (tenths === null ? NaN : tenths / 10));
    this.faces = Object.fromEntries(Object.entries(FACES).map(([kind, name]) => [kind, rgbOf(this.canvas, name)]));
    this.draw();
    this.canvas.dataset.shown = stage;
  }

  // The height at a place in mm, between the lattice's points; NaN beyond the base.
  heightAt(east, north) {
    const { columns, rows, step_mm: step } = this.model;
    const across = east / step - 0.5;
    const up = north / step - 0.5;
    if (across < -0.5 || up < -0.5 || across > columns - 0.5 || up > rows - 0.5) return NaN;
    const column = Math.min(Math.max(Math.floor(across), 0), Math.max(columns - 2, 0));
    const row = Math.min(Math.max(Math.floor(up), 0), Math.max(rows - 2, 0));
    const x = Math.min(Math.max(across - column, 0), 1);
    const y = Math.min(Math.max(up - row, 0), 1);
    const at = row * columns + column;
    const z = this.heights;
    const found = (z[at] * (1 - x) + z[at + 1] * x) * (1 - y) + (z[at + columns] * (1 - x) + z[at + columns + 1] * x) * y;
    return Number.isNaN(found) ? z[Math.round(up) * columns + Math.round(across)] : found;
  }

  // Where in the plan's picture a place in mm is painted.
  seenAt(east, north) {
    const { columns, rows, step_mm: step } = this.model;
    const { width, height } = this.picture;
    const column = Math.min(Math.max(Math.floor((east / (columns * step)) * width), 0), width - 1);
    const row = Math.min(Math.max(Math.floor((1 - north / (rows * step)) * height), 0), height - 1);
    return (row * width + column) * 4;
  }

  strataAt(east, north) {
    const { cell_mm: cell, cells, sides } = this.model;
    return sides[Math.floor(north / cell) * cells + Math.floor(east / cell)] ?? [];
  }

  draw() {
    if (!this.model) return;
    const { canvas, model } = this;
    const { data } = this.picture;
    const { columns, rows, step_mm: step } = model;
    const pen = canvas.getContext("2d");
    const shown = pen.createImageData(canvas.width, canvas.height);
    const out = shown.data;
    const width = columns * step;
    const depth = rows * step;
    const scale = (this.near * Math.min(canvas.width * 0.92, canvas.height * 1.5)) / Math.hypot(width, depth);
    const [cosine, sine] = [Math.cos(this.turn), Math.sin(this.turn)];
    const [high, rise] = [Math.cos(this.tip), Math.sin(this.tip) * TALL * scale];
    const middle = canvas.height * 0.5 + (model.highest_mm / 2) * rise;
    const reach = Math.hypot(width, depth) / 2;
    const stride = Math.min(0.7 / (scale * high), step);
    const board = this.faces.board;
    const bright = 0.82; // the sides stand a little in the shade
    const wall = WALL * stride;

    const paintSide = (x, from, to, foot, east, north) => {
      const strata = this.strataAt(east, north);
      const along = x + 1000;
      const seen = this.seenAt(east, north);
      const skin = data.subarray(seen, seen + 3);
      for (let y = to; y < from; y++) {
        const z = (foot - y) / rise;
        const layer = z < 0 ? null : (strata.find(([top]) => z * 10 <= top) ?? strata.at(-1));
        const kind = layer?.[1] ?? "board";
        const colour = layer ? (kind === "skin" ? skin : this.faces[kind]) : board;
        const mark = layer && hatches[kind]?.(along, foot - y + 1000) ? MARK : 1;
        const at = (y * canvas.width + x) * 4;
        for (let band = 0; band < 3; band++) out[at + band] = colour[band] * bright * mark;
        out[at + 3] = 255;
      }
    };

    for (let x = 0; x < canvas.width; x++) {
      const across = (x + 0.5 - canvas.width / 2) / scale;
      let top = canvas.height; // what is painted of this column so far reaches up to here
      let inside = false;
      let before = 0;
      for (let back = -reach; back <= reach; back += stride) {
        const east = across * cosine + back * sine + width / 2;
        const north = -across * sine + back * cosine + depth / 2;
        const z = this.heightAt(east, north);
        if (Number.isNaN(z)) {
          inside = false;
          continue;
        }
        const foot = middle - back * scale * high;
        const y = Math.max(Math.round(foot - z * rise), 0);
        if (!inside) {
          const from = Math.min(top, Math.round(foot + model.board_mm * rise));
          if (y < from) paintSide(x, Math.min(from, canvas.height), y, foot, east, north);
          inside = true;
        } else if (y < top) {
          // A wall wears the colour of what lies on top of it, in its own shade: from above it is but a line.
          const steep = z - before > wall;
          const seen = steep ? this.seenAt(east + sine * BEHIND, north + cosine * BEHIND) : this.seenAt(east, north);
          const light = steep ? SHADE : 1;
          for (let line = y; line < top; line++) {
            const at = (line * canvas.width + x) * 4;
            out[at] = data[seen] * light;
            out[at + 1] = data[seen + 1] * light;
            out[at + 2] = data[seen + 2] * light;
            out[at + 3] = 255;
          }
        }
        before = z;
        top = Math.min(top, y);
      }
    }
    pen.putImageData(shown, 0, 0);
    canvas.dataset.turn = this.turn.toFixed(2);
  }

  move(turn, tip, near = 1) {
    this.turn += turn;
    this.tip = Math.min(Math.max(this.tip + tip, 0.15), 1.5);
    this.near = Math.min(Math.max(this.near * near, 0.5), 6);
    if (this.drawing) return; // one picture a frame
    this.drawing = true;
    requestAnimationFrame(() => {
      this.drawing = false;
      this.draw();
    });
  }
}

function begin() {
  const canvas = document.getElementById("relief");
  if (!canvas || canvas.relief) return;
  const relief = new Relief(canvas);
  canvas.relief = relief;
  document.getElementById("relief-times").textContent = TALL;
  const slider = document.getElementById("relief-stage");
  const stages = JSON.parse(slider.dataset.stages);
  const show = () => {
    const [stage, words] = stages[Number(slider.value)];
    document.getElementById("relief-words").textContent = words;
    slider.setAttribute("aria-valuetext", words);
    relief.load(stage);
  };
  slider.addEventListener("input", show);
  show();
  let from = null;
  canvas.addEventListener("pointerdown", (event) => {
    from = [event.clientX, event.clientY];
    canvas.setPointerCapture(event.pointerId);
  });
  canvas.addEventListener("pointermove", (event) => {
    if (!from) return;
    relief.move((event.clientX - from[0]) * 0.008, (event.clientY - from[1]) * -0.006);
    from = [event.clientX, event.clientY];
  });
  canvas.addEventListener("pointerup", () => (from = null));
  canvas.addEventListener("wheel", (event) => {
    event.preventDefault();
    relief.move(0, 0, event.deltaY < 0 ? 1.12 : 1 / 1.12);
  });
  canvas.addEventListener("keydown", (event) => {
    const moves = { ArrowLeft: [-0.12, 0], ArrowRight: [0.12, 0], ArrowUp: [0, -0.08], ArrowDown: [0, 0.08], "+": [0, 0, 1.15], "-": [0, 0, 1 / 1.15] };
    if (!moves[event.key]) return;
    event.preventDefault();
    relief.move(...moves[event.key]);
  });
}

begin();
document.addEventListener("htmx:afterSettle", begin);
