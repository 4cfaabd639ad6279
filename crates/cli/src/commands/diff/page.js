for (const slider of document.querySelectorAll(".slider input")) {
  const both = slider.closest("section").querySelector(".both");
  const cut = () => both.style.setProperty("--cut", slider.value + "%");
  slider.addEventListener("input", cut);
  cut();
}
