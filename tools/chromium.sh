#!/bin/sh
# Make sure there is a Chromium for the browser tests: Debian's package, installed when missing and permitted.
set -eu
# The headless shell is Chromium without a frame of its own, and twice as quick; the whole browser does where it is not to be had.
if command -v chromium-headless-shell >/dev/null 2>&1; then exit 0; fi
has_browser=""
for name in chromium chromium-browser; do
  if command -v "$name" >/dev/null 2>&1; then has_browser="yes"; fi
done
if ! command -v apt-get >/dev/null 2>&1; then
  if [ -n "$has_browser" ]; then exit 0; fi
  echo "No Chromium here, and no apt-get to install it with. Install Chromium and run again." >&2
  exit 1
fi
as_root=""
if [ "$(id -u)" -ne 0 ]; then
  if command -v sudo >/dev/null 2>&1; then as_root="sudo"; else
    if [ -n "$has_browser" ]; then exit 0; fi
    echo "Chromium is missing; as root: apt-get install chromium" >&2
    exit 1
  fi
fi
echo "Installing Debian's Chromium for the browser tests"
$as_root apt-get update -qq
if DEBIAN_FRONTEND=noninteractive $as_root apt-get install -y -qq chromium-headless-shell >/dev/null 2>&1; then exit 0; fi
if [ -n "$has_browser" ]; then exit 0; fi
DEBIAN_FRONTEND=noninteractive $as_root apt-get install -y -qq chromium >/dev/null
