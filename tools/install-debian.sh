#!/bin/sh
# What the tests need of Debian's packages, where it is not there yet: a browser, a circuit simulator to compare with, a second
# machine on a network (ip) and a certificate for it (openssl).
set -e
wanted=""
command -v chromium >/dev/null 2>&1 || wanted="$wanted chromium"
command -v ngspice >/dev/null 2>&1 || wanted="$wanted ngspice"
command -v ip >/dev/null 2>&1 || wanted="$wanted iproute2"
command -v openssl >/dev/null 2>&1 || wanted="$wanted openssl"
if [ -z "$wanted" ]; then exit 0; fi
if [ "$(id -u)" = 0 ]; then as=""; else as="sudo"; fi
export DEBIAN_FRONTEND=noninteractive
$as apt-get update -qq
# shellcheck disable=SC2086
$as apt-get install -y -qq --no-install-recommends $wanted
