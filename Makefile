# Two commands: `make demo` starts the application with the demo roll, `make test` runs every test.
.PHONY: demo test arm looks check format browser tools pages package

PORT ?= 8080

demo:
	cargo build --release --locked
	./target/release/amber-grain demo --port $(PORT)

# Tests run as fast as the application, with assertions and overflow checks (the profile in Cargo.toml).
test: browser tools pages
	npm test --silent
	cargo test --profile checked --locked --workspace

# The core's tests on 64-bit ARM, in an emulator: as root, 3 GB of disk.
arm:
	scripts/arm.sh

# The looks that ship with the demo, rendered into docs/.
looks:
	cargo build --release --locked
	./target/release/amber-grain looks

# Format and lints of every language.
check: pages
	npm run check --silent
	cargo fmt --all --check
	cargo clippy --profile checked --locked --workspace --all-targets -- -D warnings

# Everything formatted.
format: pages
	npm run format --silent
	cargo fmt --all

# Formatter and linter of templates, styles and scripts, as package-lock.json pins them; nothing of it is shipped.
pages:
	@command -v npm >/dev/null || \
		{ apt-get update -qq && DEBIAN_FRONTEND=noninteractive apt-get install -y -qq nodejs npm; }
	@[ node_modules/.package-lock.json -nt package-lock.json ] || npm ci --silent --no-progress

# Debian's Chromium and its driver, for the tests that drive the interface.
browser:
	@command -v chromium >/dev/null && command -v chromedriver >/dev/null || \
		{ apt-get update -qq && DEBIAN_FRONTEND=noninteractive apt-get install -y -qq chromium chromium-driver; }

# Independent programs that read what we write, and write what we read; and one that spreads an order over workers.
OTHERS = libimage-exiftool-perl imagemagick libtiff-tools webp libjxl-tools parallel curl jq
tools:
	@(for tool in exiftool identify tiffinfo webpinfo djxl parallel curl jq; do \
		command -v $$tool >/dev/null || exit 1; done) || \
		{ apt-get update -qq && DEBIAN_FRONTEND=noninteractive apt-get install -y -qq $(OTHERS); }

# What an installation lays beside the program, and a Debian package or an image where their tools are there.
package:
	cargo build --release --locked
	@mkdir -p target/package/man
	./target/release/amber-grain completions bash > target/package/amber-grain.bash
	./target/release/amber-grain completions zsh > target/package/_amber-grain
	./target/release/amber-grain manual --output target/package/man
	@if cargo deb --version >/dev/null 2>&1; then cargo deb -p amber-grain --no-build --locked; \
		else echo "no Debian package: cargo install cargo-deb first"; fi
	@if docker info >/dev/null 2>&1; then docker build -f packaging/Dockerfile -t amber-grain .; \
		else echo "no image: no Docker engine runs here"; fi
