#!/bin/sh
# The core's tests on 64-bit ARM, in an emulator (as root, for chroot and mount); takes what `cargo test` takes:
#
#     scripts/arm.sh                             # all of them
#     scripts/arm.sh --lib one_by_one            # vectors against single values
#     scripts/arm.sh --test frozen               # renders against their frozen hashes
#
# Debian's testing release is laid into a folder of its own (ARM_TREE; 3 GB with what is built): its compiler has a
# standard library for ARM, and is new enough where it reaches `rust-version` in Cargo.toml. Crates are those that cargo
# has fetched here.
set -eu
cd "$(dirname "$0")/.."
root=${ARM_TREE:-/var/tmp/amber-grain-arm}
target=aarch64-unknown-linux-gnu

if ! command -v debootstrap >/dev/null; then
    apt-get update -qq
    DEBIAN_FRONTEND=noninteractive apt-get install -y -qq debootstrap
fi
if [ ! -e "$root/ready" ]; then
    rm -rf "$root"
    debootstrap --variant=minbase --include=ca-certificates,rustc,cargo,gcc,libc6-dev,gcc-aarch64-linux-gnu \
        testing "$root" "${MIRROR:-http://deb.debian.org/debian}" /usr/share/debootstrap/scripts/sid
    # a mirror may be some weeks behind
    echo 'Acquire::Check-Valid-Until "false";' >"$root/etc/apt/apt.conf.d/99-mirror"
    cp /etc/resolv.conf "$root/etc/resolv.conf"
    chroot "$root" sh -c "dpkg --add-architecture arm64 && apt-get update -qq &&
        DEBIAN_FRONTEND=noninteractive apt-get install -y -qq libstd-rust-dev:arm64 libc6-dev-arm64-cross qemu-user"
    mkdir "$root/project" "$root/crates"
    touch "$root/ready"
fi

cargo fetch --locked
leave() { umount "$root/project" "$root/crates" "$root/proc" 2>/dev/null || true; }
trap leave EXIT
mount --bind "$PWD" "$root/project"
mount --bind "${CARGO_HOME:-$HOME/.cargo}" "$root/crates"
mount -t proc proc "$root/proc"

chroot "$root" env \
    HOME=/root CARGO_HOME=/crates CARGO_TARGET_DIR=/built \
    CARGO_TARGET_AARCH64_UNKNOWN_LINUX_GNU_LINKER=aarch64-linux-gnu-gcc \
    CC_aarch64_unknown_linux_gnu=aarch64-linux-gnu-gcc \
    CARGO_TARGET_AARCH64_UNKNOWN_LINUX_GNU_RUNNER="qemu-aarch64 -L /usr/aarch64-linux-gnu" \
    cargo test --manifest-path /project/Cargo.toml --offline --locked --profile checked --target "$target" \
    -p amber-core "$@"
