#!/bin/sh
# Debian keeps Python's venv module in a package of its own: install it when missing and permitted.
set -eu
if command -v apt-get >/dev/null 2>&1 && [ "$(id -u)" -eq 0 ]; then
  apt-get update -qq
  DEBIAN_FRONTEND=noninteractive apt-get install -y -qq python3-venv >/dev/null
  exit 0
fi
echo "Python's venv module is missing; as root: apt-get install python3-venv" >&2
exit 1
