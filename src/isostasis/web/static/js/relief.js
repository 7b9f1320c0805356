// The relief that can be turned: the height field of a stage as lit quadrilaterals, painted from the back to the front.

const TALL = 1.6; // heights are drawn so many times, as on the plan
const SUN = [-0.53, 0.53, 0.67]; // from the north-west, as on the plan

function lit(a, b, c, d, step) {
  const east = (b + d - a - c) / 2 / step;
  const north = (c + d - a - b) / 2 / step;
  const size = Math.hypot(east * TALL, north * TALL, 1);
  return Math.max(0, (-east * TALL * SUN[0] - north * TALL * SUN[1] + SUN[2]) / size);
}

function quads(model) {
  const { columns, rows, z, rgb, step_mm: step } = model;
  const list = [];
  for (let row = 0; row + 1 < rows; row++) {
    for (let column = 0; column + 1 < columns; column++) {
      const at = row * columns + column;
      const corners = [at, at + 1, at + columns + 1, at + columns];
      if (corners.some((corner) => z[corner] === null)) continue;
      const light = lit(z[at], z[at + 1], z[at + columns], z[at + columns + 1], step) / 0.67;
      const shade = 0.35 + 0.65 * Math.min(light, 1.2);
      const colour = [0, 2, 4].map((place) => Math.min(255, parseInt(rgb[at].slice(place, place + 2), 16) * shade) | 0);
      list.push({ corners, fill: `rgb(${colour.join(",")})` });
    }
  }
  return list;
}

// The base's edge as upright faces down to the board, so that the block looks like the block it is.
function walls(model) {
  const { columns, rows, z } = model;
  const list = [];
  const there = (row, column) => row >= 0 && column >= 0 && row + 1 < rows && column + 1 < columns &&
    [0, 1, columns, columns + 1].every((more) => z[row * columns + column + more] !== null);
  for (let row = 0; row + 1 < rows; row++) {
    for (let column = 0; column + 1 < columns; column++) {
      if (!there(row, column)) continue;
      const at = row * columns + column;
      if (!there(row - 1, column)) list.push([at, at + 1]);
      if (!there(row + 1, column)) list.push([at + columns, at + columns + 1]);
      if (!there(row, column - 1)) list.push([at, at + columns]);
      if (!there(row, column + 1)) list.push([at + 1, at + columns + 1]);
    }
  }
  return list;
}

class Relief {
  constructor(canvas) {
    this.canvas = canvas;
    this.turn = -0.5;
    this.tip = 0.95;
    this.near = 1;
    this.wanted = null;
  }

  async load(stage) {
    this.wanted = stage;
    const answer = await fetch(`${this.canvas.dataset.url}&stage=${encodeURIComponent(stage)}`);
    if (!answer.ok || this.wanted !== stage) return;
    this.model = await answer.json();
    this.faces = quads(this.model);
    this.edges = walls(this.model);
    this.draw();
    this.canvas.dataset.shown = stage;
  }

  draw() {
    if (!this.model) return;
    const { canvas, model } = this;
    const { columns, rows, step_mm: step, z } = model;
    const pen = canvas.getContext("2d");
    const width = (columns - 1) * step;
    const depth = (rows - 1) * step;
    const scale = (this.near * Math.min(canvas.width * 0.92, canvas.height * 1.5)) / Math.hypot(width, depth);
    const [cosine, sine] = [Math.cos(this.turn), Math.sin(this.turn)];
    const [high, flat] = [Math.cos(this.tip), Math.sin(this.tip)];
    const middle = canvas.height * 0.5 + (model.highest_mm / 2) * TALL * scale * flat;
    const x = new Float32Array(z.length);
    const y = new Float32Array(z.length);
    const down = new Float32Array(z.length);
    const far = new Float32Array(z.length);
    for (let at = 0; at < z.length; at++) {
      const east = (at % columns) * step - width / 2;
      const north = Math.floor(at / columns) * step - depth / 2;
      const back = east * sine + north * cosine;
      x[at] = canvas.width / 2 + (east * cosine - north * sine) * scale;
      down[at] = middle - back * scale * high;
      y[at] = down[at] - (z[at] ?? 0) * TALL * scale * flat;
      far[at] = back;
    }
    const painted = this.faces.map((face) => ({ face, far: far[face.corners[0]] + far[face.corners[2]] }));
    painted.push(...this.edges.map((edge) => ({ edge, far: far[edge[0]] + far[edge[1]] })));
    painted.sort((one, other) => other.far - one.far);
    pen.clearRect(0, 0, canvas.width, canvas.height);
    for (const { face, edge } of painted) {
      pen.beginPath();
      if (face) {
        face.corners.forEach((corner, index) => (index ? pen.lineTo(x[corner], y[corner]) : pen.moveTo(x[corner], y[corner])));
        pen.fillStyle = face.fill;
      } else {
        const [a, b] = edge;
        pen.moveTo(x[a], y[a]);
        pen.lineTo(x[b], y[b]);
        pen.lineTo(x[b], down[b]);
        pen.lineTo(x[a], down[a]);
        pen.fillStyle = "#a08a66";
      }
      pen.closePath();
      pen.fill();
      pen.strokeStyle = pen.fillStyle;
      pen.lineWidth = 0.6;
      pen.stroke();
    }
    canvas.dataset.turn = this.turn.toFixed(2);
  }

  move(turn, tip, near = 1) {
    this.turn += turn;
    this.tip = Math.min(Math.max(this.tip + tip, 0.15), 1.5);
    this.near = Math.min(Math.max(this.near * near, 0.5), 6);
    requestAnimationFrame(() => this.draw());
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
