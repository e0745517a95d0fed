// The drawing as PNG: the SVG that the site draws, painted on a canvas at twice its size.
import { reveal, save } from "./shared.js";

const SCALE = 2;

document.addEventListener("click", async (event) => {
  if (!event.target.closest("#save-png")) return;
  const drawn = await (await fetch(document.getElementById("save-svg").href)).text();
  const image = new Image();
  image.src = `data:image/svg+xml;charset=utf-8,${encodeURIComponent(drawn)}`;
  await image.decode();
  const canvas = document.createElement("canvas");
  canvas.width = image.naturalWidth * SCALE;
  canvas.height = image.naturalHeight * SCALE;
  canvas.getContext("2d").drawImage(image, 0, 0, canvas.width, canvas.height);
  canvas.toBlob((blob) => save(blob, "burst.png"));
});
reveal("#save-png");
