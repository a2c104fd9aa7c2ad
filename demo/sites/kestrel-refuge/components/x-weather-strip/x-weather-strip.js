// x-weather-strip 2.3.0: a line about the weather, from what the page says itself.
customElements.define("x-weather-strip", class extends HTMLElement {
  connectedCallback() {
    const hour = new Date().getHours();
    const part = hour < 10 ? "this morning" : hour < 17 ? "today" : "tonight";
    const line = document.createElement("strong");
    line.textContent = `${this.getAttribute("place") || "Up here"}, ${part}: look out of the window. `;
    this.prepend(line);
  }
});
