#!/bin/sh
# What the tests need of Debian's packages, where it is not there yet: a browser, a circuit simulator to compare with, a second
# machine on a network (ip) and a certificate for it (openssl).
set -e
if [ "$(id -u)" = 0 ]; then as=""; else as="sudo"; fi
export DEBIAN_FRONTEND=noninteractive

install() {
    $as apt-get update -qq
    # shellcheck disable=SC2086
    $as apt-get install -y -qq --no-install-recommends $1
}

wanted=""
command -v chromium >/dev/null 2>&1 || wanted="$wanted chromium"
command -v ngspice >/dev/null 2>&1 || wanted="$wanted ngspice"
command -v ip >/dev/null 2>&1 || wanted="$wanted iproute2"
command -v openssl >/dev/null 2>&1 || wanted="$wanted openssl"
[ -z "$wanted" ] || install "$wanted"

# The same browser without what windows need: not needed, but half the work.
if ! command -v chromium-headless-shell >/dev/null 2>&1; then
    install chromium-headless-shell || echo "No chromium-headless-shell to be had: the tests take the whole of Chromium." >&2
fi
