#!/usr/bin/env bash
# SPDX-License-Identifier: MIT
# hook-before-commit.sh: what a commit should pass, in a few seconds: the layout, and a build without warnings. Offered, not
# forced: ln -s ../../scripts/hook-before-commit.sh .git/hooks/pre-commit
set -euo pipefail
cd "$(git rev-parse --show-toplevel)"
scripts/check-format.sh
cmake --preset dev >/dev/null
cmake --build --preset dev | tail -n 1
