#!/usr/bin/env bash
# Installs what is missing on a Debian machine, by sudo when not root, and says so.
# Usage: setup.sh [serve] [test] [soak] [shots]: what the machine is wanted for.
set -euo pipefail
cd "$(dirname "$0")/.."

missing=()
need() { # need COMMAND PACKAGE
  command -v "$1" >/dev/null 2>&1 || [ -x "/usr/sbin/$1" ] || missing+=("$2")
}
need_browser() {
  need chromium-headless-shell chromium-headless-shell
  need_fonts
}
need_fonts() {
  fc-list 2>/dev/null | grep -q DejaVuSerif || missing+=(fonts-dejavu-core fonts-dejavu-extra fontconfig)
}
for what in "$@"; do
  case "$what" in
    serve) need mariadbd mariadb-server; if command -v chromium >/dev/null; then need_fonts; else need_browser; fi ;;
    test) need_browser ;;
    soak) need firefox-esr firefox-esr ;;
    shots) need xterm xterm; need Xvfb xvfb; need import imagemagick ;;
  esac
done
for tool in go node npm git make; do
  command -v "$tool" >/dev/null 2>&1 || { echo "Compact Parcel needs $tool: install it first (Go 1.26, Node 20 with npm)." >&2; exit 1; }
done
if [ "${#missing[@]}" -gt 0 ]; then
  echo "Installing from Debian: ${missing[*]}"
  sudo=""
  if [ "$(id -u)" -ne 0 ]; then
    command -v sudo >/dev/null || { echo "This needs root or sudo: apt-get install ${missing[*]}" >&2; exit 1; }
    sudo="sudo"
  fi
  $sudo apt-get update -qq
  # The package starts a server of its own where a service manager runs; ours is another.
  $sudo env DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends "${missing[@]}" >/dev/null
  echo "Installed: ${missing[*]}"
fi
if [ ! -f web/node_modules/.installed ] || [ web/package-lock.json -nt web/node_modules/.installed ]; then
  echo "Installing the console's packages (npm ci)"
  (cd web && npm ci --no-audit --no-fund --loglevel=error)
  touch web/node_modules/.installed
fi
