#!/bin/sh
# Chromium for the browser tests, from Debian's packages, where it is not there yet.
set -e
if command -v chromium >/dev/null 2>&1; then exit 0; fi
if [ "$(id -u)" = 0 ]; then as=""; else as="sudo"; fi
export DEBIAN_FRONTEND=noninteractive
$as apt-get update -qq
$as apt-get install -y -qq --no-install-recommends chromium
