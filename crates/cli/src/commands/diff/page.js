document.body.classList.add("scripted");
for (const section of document.querySelectorAll("section")) {
  const slider = section.querySelector(".slider input");
  if (!slider) continue;
  const show = () => {
    const way = section.querySelector(".ways input:checked").value;
    if (way === "marked") delete section.dataset.way;
    else section.dataset.way = way;
  };
  const cut = () => {
    const part = slider.value / slider.max;
    section.style.setProperty("--cut", 100 * part + "%");
    section.style.setProperty("--part", part);
  };
  for (const way of section.querySelectorAll(".ways input")) way.addEventListener("change", show);
  slider.addEventListener("input", cut);
  cut();
}
