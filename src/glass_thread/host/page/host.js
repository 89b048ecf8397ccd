/** The host stand-in's page: files by their time stamps, played one at a time, and what the null test says. */

const byId = (name) => document.getElementById(name);
const two = (value) => String(value).padStart(2, "0");
const clock = (seconds) => {
  const tenths = Math.round(seconds * 10);
  const [hours, minutes] = [Math.floor(tenths / 36000), Math.floor(tenths / 600) % 60];
  return `${hours}:${two(minutes)}:${((tenths % 600) / 10).toFixed(1).padStart(4, "0")}`;
};
const sound = new Audio();
let chosen = null;

function span(files) {
  const placed = files.filter((file) => !file.problem);
  const begin = Math.min(...placed.map((file) => file.begin_s));
  const end = Math.max(...placed.map((file) => file.begin_s + file.seconds));
  return placed.length ? { begin, end } : { begin: 0, end: 1 };
}

function draw(canvas, file, { begin, end }, spans) {
  const ratio = window.devicePixelRatio || 1;
  const [width, height] = [canvas.clientWidth, canvas.clientHeight];
  canvas.width = width * ratio;
  canvas.height = height * ratio;
  const ctx = canvas.getContext("2d");
  ctx.scale(ratio, ratio);
  const style = getComputedStyle(document.documentElement);
  const xOf = (seconds) => ((seconds - begin) / (end - begin)) * width;
  ctx.fillStyle = style.getPropertyValue("--sound");
  file.outline.forEach((level, i) => {
    const x = xOf(file.begin_s + (i / file.outline.length) * file.seconds);
    const half = Math.max(0.5, (level / 100) * (height / 2 - 4));
    ctx.fillRect(x, height / 2 - half, Math.max(1, width / file.outline.length), 2 * half);
  });
  ctx.fillStyle = style.getPropertyValue("--chosen");
  for (const [a, b] of spans) ctx.fillRect(xOf(file.sourceBegin_s + a), height - 5, Math.max(2, xOf(b) - xOf(a)), 4);
}

function choose(file, button) {
  for (const other of document.querySelectorAll("#files button")) other.setAttribute("aria-pressed", "false");
  button.setAttribute("aria-pressed", "true");
  const at = chosen ? chosen.begin_s + sound.currentTime : file.begin_s;
  const playing = !sound.paused;
  chosen = file;
  sound.src = `/sound/${file.place}/${encodeURIComponent(file.name)}`;
  sound.currentTime = Math.min(Math.max(0, at - file.begin_s), file.seconds);
  if (playing) void sound.play();
  byId("play").disabled = false;
}

function showFiles(folder) {
  const { files, found } = folder;
  const whole = span(files);
  const rows = files.map((file) => {
    const row = document.createElement("li");
    const button = document.createElement("button");
    button.type = "button";
    button.setAttribute("aria-pressed", "false");
    button.textContent = `${file.place}/${file.name}`;
    const facts = document.createElement("small");
    facts.textContent = file.problem ?? `at ${clock(file.begin_s)}, ${clock(file.seconds)}${file.stamped ? "" : ", no time stamp"}`;
    button.append(facts);
    const canvas = document.createElement("canvas");
    row.append(button, canvas);
    if (file.problem) button.disabled = true;
    button.addEventListener("click", () => choose(file, button));
    return { row, canvas, file };
  });
  byId("files").replaceChildren(...rows.map(({ row }) => row));
  for (const { canvas, file } of rows) {
    if (file.problem) continue;
    const said = found.find((one) => file.place === "out" && one.file === file.name);
    const source = files.find((one) => one.place === "in" && one.name === said?.source);
    draw(canvas, { ...file, sourceBegin_s: source?.begin_s ?? file.begin_s }, whole, said?.spans ?? []);
  }
}

function showFound(found) {
  const rows = found.map((one) => {
    const row = document.createElement("li");
    row.className = one.good ? "" : "bad";
    const name = document.createElement("strong");
    name.textContent = one.file;
    const said = document.createElement("div");
    said.textContent = one.sentence;
    const spans = document.createElement("small");
    spans.textContent = one.spans.map(([a, b]) => `${a.toFixed(2)} to ${b.toFixed(2)} s`).join(",  ");
    row.append(name, said, spans);
    return row;
  });
  if (rows.length === 0) {
    const none = document.createElement("li");
    none.textContent = "There are no prints in this folder yet.";
    rows.push(none);
  }
  byId("found").replaceChildren(...rows);
}

async function look() {
  const answer = await fetch("/folder.json");
  const folder = await answer.json();
  byId("trouble").hidden = answer.ok;
  byId("trouble").textContent = answer.ok ? "" : folder.message;
  if (!answer.ok) return;
  byId("folder").textContent = folder.folder;
  showFiles(folder);
  showFound(folder.found);
}

byId("again").addEventListener("click", () => void look());
byId("play").addEventListener("click", () => (sound.paused ? void sound.play() : sound.pause()));
sound.addEventListener("play", () => (byId("play").textContent = "Stop"));
sound.addEventListener("pause", () => (byId("play").textContent = "Play"));
sound.addEventListener("timeupdate", () => (byId("clock").textContent = clock((chosen?.begin_s ?? 0) + sound.currentTime)));
void look();
