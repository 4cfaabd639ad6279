const versions = [...document.querySelectorAll(".version")];
const step = document.getElementById("step");
const show = (at) => {
  const now = Math.min(Math.max(at, 1), versions.length);
  step.value = now;
  versions.forEach((version, i) => { version.hidden = i + 1 !== now; });
};
step.addEventListener("input", () => show(Number(step.value)));
document.getElementById("back").addEventListener("click", () => show(Number(step.value) - 1));
document.getElementById("on").addEventListener("click", () => show(Number(step.value) + 1));
addEventListener("keydown", (event) => {
  if (event.target === step) return;
  if (event.key === "ArrowLeft") show(Number(step.value) - 1);
  if (event.key === "ArrowRight") show(Number(step.value) + 1);
});
show(Number(step.value));
