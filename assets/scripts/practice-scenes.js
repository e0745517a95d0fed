// Draws a run on its canvas: the subject, and beneath it the strokes, the press and the buffer.

const HEIGHTS = { scene: 0.62, strokes: 0.16, buffer: 0.22 };

let colours = null;
let coloursFor = "";

function palette(canvas) {
  const theme = document.documentElement.dataset.bsTheme;
  if (theme !== coloursFor) {
    const style = getComputedStyle(canvas);
    const of = (name) => style.getPropertyValue(`--${name}`).trim();
    colours = Object.fromEntries(["ground", "paper", "ink", "ink-soft", "line", "water", "water-edge", "stroke", "wall", "missed"].map((name) => [name, of(name)]));
    colours.font = style.fontFamily;
    coloursFor = theme;
  }
  return colours;
}

function fit(canvas) {
  const density = window.devicePixelRatio || 1;
  const { clientWidth: width, clientHeight: height } = canvas;
  if (canvas.width !== Math.round(width * density) || canvas.height !== Math.round(height * density)) {
    canvas.width = Math.round(width * density);
    canvas.height = Math.round(height * density);
  }
  const pen = canvas.getContext("2d");
  pen.setTransform(density, 0, 0, density, 0, 0);
  return { pen, width, height };
}

// What the subject does now, how far it is through it (0 to 1), and what it did before.
function stageAt(stages, ends, now, still) {
  let number = 0;
  while (number + 1 < stages.length && stages[number + 1][1] <= now) number += 1;
  const [kind, from] = stages[number];
  const to = stages[number + 1]?.[1] ?? ends;
  return { kind, far: still ? 0.5 : Math.min(1, (now - from) / (to - from)), since: still ? 0 : now - from, isBack: kind === "waiting" && number > 0 };
}

export function drawScene(canvas, run) {
  const { pen, width, height } = fit(canvas);
  const ink = palette(canvas);
  const sceneHeight = height * HEIGHTS.scene;
  pen.clearRect(0, 0, width, height);
  pen.save();
  pen.beginPath();
  pen.rect(0, 0, width, sceneHeight);
  pen.clip();
  const doing = stageAt(run.stages, run.ends, run.now, run.still);
  SCENES[run.subject](pen, ink, width, sceneHeight, doing, run.still ? 0 : run.now);
  pen.restore();
  drawStrokes(pen, ink, width, sceneHeight, height * HEIGHTS.strokes, run);
  drawBuffer(pen, ink, width, height * (HEIGHTS.scene + HEIGHTS.strokes), height * HEIGHTS.buffer, run);
}

function drawStrokes(pen, ink, width, top, height, run) {
  const place = (moment) => ((moment - run.from) / run.lasts) * width;
  pen.fillStyle = ink.paper;
  pen.fillRect(0, top, width, height);
  pen.fillStyle = ink.line;
  for (const [down, up] of run.presses) pen.fillRect(place(down), top + height - 5, place(up ?? run.now) - place(down), 5);
  pen.fillStyle = ink.missed;
  for (const stroke of run.raced) if (stroke >= run.from && stroke <= run.now) pen.fillRect(place(stroke), top + 3, 2, height * 0.3);
  pen.fillStyle = ink.stroke;
  for (const stroke of run.strokes) if (stroke >= run.from) pen.fillRect(place(stroke), top + height * 0.38, 2, height * 0.45);
  pen.fillStyle = ink.wall;
  for (const wall of run.walls) if (wall >= run.from && wall <= run.now) pen.fillRect(place(wall), top, 2, height);
}

function drawBuffer(pen, ink, width, top, height, run) {
  const used = Math.max(0, Math.min(1, run.used));
  const isFull = 1 - used < run.room;
  const barTop = top + 24;
  pen.fillStyle = ink.paper;
  pen.fillRect(0, barTop, width, height - 26);
  pen.fillStyle = ink.water;
  pen.fillRect(0, barTop, width * used, height - 26);
  pen.fillStyle = isFull ? ink.wall : ink["water-edge"];
  pen.fillRect(width * used - 2, barTop, 3, height - 26);
  pen.fillStyle = ink.ink;
  pen.font = `600 16px ${ink.font}`;
  pen.textBaseline = "top";
  const frames = Math.floor((1 - used) / run.room + 1e-6);
  pen.fillText(isFull ? "The buffer is full" : `Room for ${frames} frame${frames === 1 ? "" : "s"}`, 0, top + 4);
  const taken = `${run.strokes.length} taken`;
  pen.fillText(taken, width - pen.measureText(taken).width, top + 4);
}

const mix = (from, to, far) => from + (to - from) * far;

function ellipse(pen, x, y, wide, high, turned = 0) {
  pen.beginPath();
  pen.ellipse(x, y, wide, high, turned, 0, 2 * Math.PI);
  pen.fill();
}

function line(pen, points, wide) {
  pen.lineWidth = wide;
  pen.lineCap = pen.lineJoin = "round";
  pen.beginPath();
  for (const [x, y] of points) pen.lineTo(x, y);
  pen.stroke();
}

// A bird with its wings up by `lift` (-1 to 1) and folded by `fold` (0 to 1), heading to `turned`.
function bird(pen, ink, x, y, size, turned, lift, fold) {
  pen.save();
  pen.translate(x, y);
  pen.rotate(turned);
  pen.fillStyle = pen.strokeStyle = ink.ink;
  ellipse(pen, 0, 0, size * 0.5, size * 0.13);
  line(pen, [[-size * 0.4, 0], [-size * 0.62, 0]], size * 0.1);
  pen.beginPath();
  pen.moveTo(size * 0.45, -size * 0.06);
  pen.lineTo(size * 0.72, size * 0.02);
  pen.lineTo(size * 0.45, size * 0.06);
  pen.fill();
  const reach = size * mix(0.85, 0.06, fold) * lift;
  const back = size * mix(0.12, 0.62, fold);
  pen.fillStyle = ink["ink-soft"];
  wing(pen, size * 0.16, size * 0.02, -back * 0.7 + size * 0.12, -reach * 0.8, size);
  pen.fillStyle = ink.ink;
  wing(pen, size * 0.2, -size * 0.02, -back, -reach, size);
  pen.restore();
}

// From the shoulder to the tip of a wing, and back along its trailing edge.
function wing(pen, x, y, tipX, tipY, size) {
  pen.beginPath();
  pen.moveTo(x, y);
  pen.quadraticCurveTo(x - size * 0.02, mix(y, tipY, 0.7), tipX, tipY);
  pen.quadraticCurveTo(x - size * 0.4, mix(y, tipY, 0.35), x - size * 0.38, y);
  pen.fill();
}

function sea(pen, ink, width, height, top, now) {
  pen.fillStyle = ink.water;
  pen.fillRect(0, top, width, height - top);
  pen.strokeStyle = ink["water-edge"];
  for (let row = 0; row < 3; row += 1) {
    const y = top + 14 + row * 18;
    const points = [];
    for (let x = 0; x < width + 16; x += 16) points.push([x, y + 2 * Math.sin(x / 26 + now * 1.5 + row * 2)]);
    pen.globalAlpha = 0.35;
    line(pen, points, 1);
    pen.globalAlpha = 1;
  }
}

function splash(pen, ink, x, y, far) {
  pen.strokeStyle = ink["water-edge"];
  pen.globalAlpha = 1 - far * 0.7;
  for (let drop = -3; drop <= 3; drop += 1) {
    const spread = drop * 9 * (0.4 + far);
    line(pen, [[x + spread * 0.4, y], [x + spread, y - (42 - 7 * Math.abs(drop)) * Math.sin(Math.PI * Math.min(1, far + 0.15))]], 3);
  }
  pen.globalAlpha = 1;
}

function gannet(pen, ink, width, height, { kind, far, since }, now) {
  const surface = height * 0.76;
  pen.fillStyle = ink.line;
  pen.beginPath();
  for (const [x, y] of [[0, 0.3], [0.1, 0.34], [0.14, 0.5], [0.19, 0.55], [0.22, 0.76], [0, 0.76]]) pen.lineTo(x * width, y * height);
  pen.fill();
  sea(pen, ink, width, height, surface, now);
  const size = Math.min(64, width * 0.1);
  const x = width * 0.58;
  const high = height * 0.2;
  const circling = [x + Math.sin(now * 1.1) * width * 0.13, high + Math.sin(now * 2.2) * height * 0.04];
  if (kind === "waiting") bird(pen, ink, ...circling, size, 0.1 * Math.cos(now * 1.1), Math.sin(now * 7) * 0.6 + 0.2, 0);
  if (kind === "build_up") bird(pen, ink, mix(circling[0], x, Math.min(1, since * 3)), high + far * height * 0.05, size, mix(0, 1.2, Math.min(1, since * 2.5)), 0.7, 0.2);
  if (kind === "lead") bird(pen, ink, x, mix(high + height * 0.05, surface, far ** 1.6), size, 1.5, 0.5, 1);
  if (kind === "moment") {
    bird(pen, ink, x, mix(surface, surface + size * 0.4, far), size, 1.55, 0.4, 1);
    sea(pen, ink, width, height, surface + size * 0.35, now);
    splash(pen, ink, x, surface + 4, far);
  }
  if (kind === "after") splash(pen, ink, x, surface + 4, Math.min(1, 0.6 + far * 0.4));
}

function kayak(pen, ink, width, height, { kind, far, since, isBack }, now) {
  sea(pen, ink, width, height, height * 0.3, now * 2);
  const gate = width * 0.66;
  pen.strokeStyle = ink.ink;
  for (const side of [-1, 1]) line(pen, [[gate + side * 34, height * 0.08], [gate + side * 34, height * 0.5]], 5);
  const start = width * 0.2;
  const drift = Math.sin(now * 2.1) * 6;
  const at = {
    waiting: [isBack ? mix(start + width * 0.08, start, Math.min(1, since)) : start, 0],
    build_up: [start + width * 0.08 * Math.min(1, since * 2), -0.12 * Math.min(1, since * 3)],
    lead: [mix(start + width * 0.08, gate, far), 0],
    moment: [mix(gate, gate + width * 0.06, far), far * 2 * Math.PI],
    after: [mix(gate + width * 0.06, width * 1.05, far), 0],
  }[kind];
  const y = height * 0.58 + drift;
  const size = Math.min(70, width * 0.12);
  pen.save();
  pen.translate(at[0], y);
  pen.rotate(kind === "moment" ? 0 : at[1]);
  pen.scale(1, kind === "moment" ? Math.cos(at[1]) : 1);
  pen.fillStyle = ink.ink;
  ellipse(pen, 0, 6, size, size * 0.16);
  ellipse(pen, 0, -size * 0.42, size * 0.13, size * 0.15);
  pen.strokeStyle = ink.ink;
  line(pen, [[0, 0], [0, -size * 0.3]], size * 0.16);
  const paddle = Math.sin(now * (kind === "lead" ? 12 : 6)) * 0.5;
  line(pen, [[-size * 0.6 * Math.cos(paddle), -size * 0.2 - size * 0.5 * Math.sin(paddle)], [size * 0.6 * Math.cos(paddle), -size * 0.2 + size * 0.5 * Math.sin(paddle)]], 4);
  pen.restore();
  if (kind === "moment") splash(pen, ink, at[0], y + 8, far);
}

function gate(pen, ink, width, height, { kind, far, since, isBack }) {
  const floor = height * 0.8;
  pen.fillStyle = ink.line;
  pen.fillRect(0, floor, width, height - floor);
  const bar = width * 0.6;
  const dropped = kind === "moment" ? Math.min(1, far * 5) : kind === "after" ? 1 : 0;
  pen.strokeStyle = ink.ink;
  line(pen, [[bar, floor], [bar + Math.sin((dropped * Math.PI) / 2) * height * 0.45, floor - Math.cos((dropped * Math.PI) / 2) * height * 0.45]], 7);
  const forward = kind === "build_up" ? Math.min(1, since * 4) : kind === "waiting" ? (isBack ? Math.max(0, 1 - since * 3) : 0) : 1;
  const away = kind === "moment" ? far * 0.3 : kind === "after" ? 0.3 + far * 0.6 : 0;
  const size = Math.min(58, width * 0.09);
  pen.fillStyle = ink.ink;
  for (const row of [0, 1, 2]) {
    const x = bar - size * (1.1 + row * 1.3) + away * width;
    const lean = forward * 0.55;
    ellipse(pen, x, floor - size * 0.15, size * 0.62, size * 0.13);
    const head = [x + Math.sin(lean) * size * 0.9, floor - size * 0.2 - Math.cos(lean) * size * 0.9];
    line(pen, [[x, floor - size * 0.2], head], size * 0.2);
    ellipse(pen, ...head, size * 0.17, size * 0.17);
    line(pen, [[x - size * 0.4, floor - size * 0.75], [x + size * 0.7, floor - size * (0.35 + 0.2 * (1 - forward))]], 3);
  }
}

function perched(pen, ink, width, height, { kind, far, since, isBack }, now) {
  pen.strokeStyle = ink["ink-soft"];
  line(pen, [[width * 0.12, height * 0.78], [width * 0.4, height * 0.7], [width * 0.78, height * 0.72]], 12);
  line(pen, [[width * 0.55, height * 0.71], [width * 0.66, height * 0.5]], 6);
  const size = Math.min(90, width * 0.15);
  const [x, y] = [width * 0.42, height * 0.7 - size * 0.2];
  const lean = kind === "build_up" ? Math.min(1, since * 4) : kind === "waiting" ? (isBack ? Math.max(0, 1 - since * 3) : 0) : 1;
  const upright = -0.9 + lean * 0.9;
  if (kind === "waiting") bird(pen, ink, x, y - size * 0.22, size, upright + 0.04 * Math.sin(now * 3), 0.1, 1);
  if (kind === "build_up") bird(pen, ink, x, y - size * 0.22 + lean * size * 0.16, size, upright, 0.1, 1);
  if (kind === "lead") bird(pen, ink, x, y - size * 0.06, size, 0.05, mix(0.2, 1, far), mix(1, 0.2, far));
  if (kind === "moment") bird(pen, ink, x + far * width * 0.16, y - far * height * 0.3, size, -0.5, Math.cos(far * 4 * Math.PI), 0);
  if (kind === "after") bird(pen, ink, x + width * mix(0.16, 0.75, far), y - height * mix(0.3, 0.75, far), size * mix(1, 0.6, far), -0.3, Math.cos(far * 8 * Math.PI), 0);
}

const SCENES = { gannet, kayak, gate, bird: perched };
