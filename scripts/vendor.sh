#!/bin/sh
# Fetches the pinned front-end packages from the npm registry into crates/web/assets/vendor, where they are
# committed and embedded in the binary. Run it only to change a version.
set -eu
cd "$(dirname "$0")/.."
target=$PWD/crates/web/assets/vendor
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
mkdir -p "$target/fonts"

take() { # package version path-in-package file
    [ -d "$work/$1@$2" ] || {
        (cd "$work" && npm pack --silent "$1@$2" >/dev/null)
        mkdir -p "$work/$1@$2"
        tar -xzf "$work"/*.tgz -C "$work/$1@$2" --strip-components=1
        rm "$work"/*.tgz
    }
    cp "$work/$1@$2/$3" "$target/$4"
}

take bootstrap 5.3.8 dist/css/bootstrap.min.css bootstrap.min.css
take bootstrap 5.3.8 dist/js/bootstrap.bundle.min.js bootstrap.bundle.min.js
take bootstrap 5.3.8 LICENSE BOOTSTRAP-LICENSE
take bootstrap-icons 1.13.1 font/bootstrap-icons.min.css bootstrap-icons.min.css
take bootstrap-icons 1.13.1 font/fonts/bootstrap-icons.woff2 fonts/bootstrap-icons.woff2
take bootstrap-icons 1.13.1 LICENSE BOOTSTRAP-ICONS-LICENSE
take htmx.org 2.0.7 dist/htmx.min.js htmx.min.js
take htmx.org 2.0.7 LICENSE HTMX-LICENSE
take @fontsource-variable/archivo 5.2.8 files/archivo-latin-wdth-normal.woff2 fonts/archivo-latin-wdth-normal.woff2
take @fontsource-variable/archivo 5.2.8 files/archivo-latin-ext-wdth-normal.woff2 \
    fonts/archivo-latin-ext-wdth-normal.woff2
take @fontsource-variable/archivo 5.2.8 LICENSE ARCHIVO-LICENSE

# source maps are not shipped
sed -i '/^\/\*# sourceMappingURL/d' "$target/bootstrap.min.css"
sed -i '/^\/\/# sourceMappingURL/d' "$target/bootstrap.bundle.min.js"
# a rule for whatever follows an element has a browser style the whole page anew when any element is put into it
sed -i 's/legend+\*{/fieldset>:not(legend){/' "$target/bootstrap.min.css"
# only the newer font format is shipped
sed -i 's/,url("fonts\/bootstrap-icons.woff?[0-9a-f]*") format("woff")//' "$target/bootstrap-icons.min.css"
# of the icons only those that are used
pip install --quiet fonttools brotli
python3 scripts/icons.py
