# Sourced by ./run, ./test and .ci/run: makes .venv, installs the pinned versions and compiles the kernels.
# Where nothing has changed it only compares two small files, and touches no network.
# Use: setup LOCKFILE, with the repository as the working folder.

setup_say() { printf 'spiralis set-up: %s\n' "$*" >&2; }

setup_apt() {
  # Install Debian packages where that is allowed; else say which ones are missing.
  if [ "$(id -u)" = 0 ] && command -v apt-get >/dev/null 2>&1; then
    setup_say "installing $*"
    { apt-get install -y -q --no-install-recommends "$@" || { apt-get update -q && apt-get install -y -q --no-install-recommends "$@"; }; } >/dev/null 2>&1 && return 0
  fi
  setup_say "please install these packages first: $*"
  return 1
}

setup_qt_libraries() {
  # The wheels bring Qt and Skia but not the system's GL, keyboard and font libraries.
  # Imports do not show what the plugin for a real display lacks, so that one is asked by itself.
  .venv/bin/python -c 'import PyQt6.QtGui, PyQt6.QtWidgets, skia' >/dev/null 2>&1 &&
    ! ldd .venv/lib/python*/site-packages/PyQt6/Qt6/plugins/platforms/libqxcb.so 2>/dev/null | grep -q 'not found' &&
    return 0
  setup_apt libegl1 libgl1 libxkbcommon0 libxkbcommon-x11-0 libdbus-1-3 libfontconfig1 libglib2.0-0 \
    libxcb-cursor0 libxcb-icccm4 libxcb-keysyms1 libxcb-shape0 libxcb-image0 libxcb-render-util0 libxcb-xinerama0
}

setup_sound() {
  # What plays sound needs one library more; without it all else works.
  .venv/bin/python -c 'import PyQt6.QtMultimedia' >/dev/null 2>&1 || setup_apt libpulse0 ||
    setup_say "without it pieces play in silence; sound is written all the same."
}

setup_show() {
  # Lines over one another where somebody looks.
  local line
  while IFS= read -r line; do [ ! -t 2 ] || printf '\r  %s' "$line" >&2; done
  [ ! -t 2 ] || printf '\n' >&2
}

kernel_sources() { cat spiralis/core/*/kernels/*.py; }

setup_command() {
  # `.venv/bin/spiralis` for those who like to call it by name, from any folder.
  cat > .venv/bin/spiralis <<'END'
#!/bin/sh
here=$(cd "$(dirname "$(readlink -f "$0")")/../.." && pwd)
PYTHONPATH="$here${PYTHONPATH:+:$PYTHONPATH}" exec "$here/.venv/bin/python" -m spiralis "$@"
END
  chmod +x .venv/bin/spiralis
}

setup() {
  local lock=$1 python=${PYTHON:-python3}
  local stamp=.venv/installed-$(basename "$lock")
  if ! cmp -s <(cat requirements.lock "$lock") "$stamp"; then
    "$python" -c 'import sys; sys.exit(sys.version_info < (3, 11))' || {
      setup_say "Spiralis needs Python 3.11 or newer, and $python is older."; return 1; }
    if [ ! -x .venv/bin/pip ]; then
      setup_say "making .venv"
      "$python" -m venv .venv >/dev/null 2>&1 || { rm -rf .venv; setup_apt python3-venv && "$python" -m venv .venv; } || return 1
    fi
    setup_say "installing the pinned packages (once)"
    .venv/bin/pip install -q --disable-pip-version-check -r "$lock" || {
      setup_say "the packages could not be installed; see the lines above."; return 1; }
    setup_qt_libraries || return 1
    setup_sound
    cat requirements.lock "$lock" > "$stamp"
  fi
  [ -x .venv/bin/spiralis ] || setup_command
  local compiled=.venv/compiled-kernels
  if ! cmp -s <(kernel_sources) "$compiled"; then
    setup_say "compiling the drawing kernels (once, a minute or two)"
    # A cached kernel does not notice that one it calls has changed, so start from nothing.
    rm -f spiralis/core/*/kernels/__pycache__/*.nb?
    (set -o pipefail; .venv/bin/python -m spiralis.core.warm | setup_show) || return 1
    # Drawn here once, the demo opens at once from then on; without a cache folder it is drawn at each start.
    .venv/bin/python -c "import signal; signal.signal(signal.SIGINT, signal.SIG_DFL)
from spiralis.demo.stored import stored_demo; stored_demo()" || true
    kernel_sources > "$compiled"
  fi
}
