var button = document.querySelector(".menu-button")
button.addEventListener("click", function () {
  var open = document.getElementById("menu").classList.toggle("is-open")
  button.setAttribute("aria-expanded", open)
})
