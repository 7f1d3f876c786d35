#!/usr/bin/env bash
# Installs what is missing, builds, and plays the harbour's recorded readings through its gate file.
set -euo pipefail
cd "$(dirname "$0")"
scripts/install-packages.sh build
cmake --preset release >build-release.log 2>&1 && cmake --build --preset release >>build-release.log 2>&1 || {
    cat build-release.log >&2
    exit 1
}
rm -f build-release.log
fickle=build/release/fickle
harbour=examples/harbour

show() {
    echo
    echo "\$ $*"
    "$@"
}
show $fickle check $harbour/harbour.gate
show $fickle replay $harbour/harbour.gate $harbour/spring-tide.csv
show $fickle trial $harbour/harbour.gate
show $fickle why $harbour/harbour.gate $harbour/spring-tide.csv green --at 128s
show $fickle tune examples/beehive/beehive.gate examples/beehive/weighings.csv --label seen
show $fickle draw $harbour/harbour.gate $harbour/spring-tide.csv -o build/harbour.png
echo "the picture is build/harbour.png"
show $fickle bake $harbour/harbour.gate -o build/harbour
show build/release/examples/night_bike
