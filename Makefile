# Two commands: `make demo` starts the application with the demo roll, `make test` runs every test.
.PHONY: demo test looks check browser tools

PORT ?= 8080

demo:
	cargo build --release --locked
	./target/release/amber-grain demo --port $(PORT)

# Tests run in release, like the application: one build of the dependencies serves both.
test: browser tools
	cargo test --release --locked --workspace

# The looks that ship with the demo, rendered into docs/.
looks:
	cargo build --release --locked
	./target/release/amber-grain looks

check:
	cargo fmt --all --check
	cargo clippy --release --locked --workspace --all-targets -- -D warnings

# Debian's Chromium and its driver, for the tests that drive the interface.
browser:
	@command -v chromium >/dev/null && command -v chromedriver >/dev/null || \
		{ apt-get update -qq && DEBIAN_FRONTEND=noninteractive apt-get install -y -qq chromium chromium-driver; }

# exiftool reads back what we write.
tools:
	@command -v exiftool >/dev/null || \
		{ apt-get update -qq && DEBIAN_FRONTEND=noninteractive apt-get install -y -qq libimage-exiftool-perl; }
