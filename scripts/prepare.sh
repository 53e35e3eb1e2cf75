# What ./start and ./test share: install what is missing, build what changed.
# Sourced with the project's folder as the current one.

fail() { echo "$1" >&2; exit 1; }

as_root() {
	if [ "$(id -u)" = 0 ]; then "$@"; elif command -v sudo >/dev/null; then sudo "$@"; else
		fail "This needs root or sudo: $*"
	fi
}

need_tools() {
	for tool in go node npm; do
		command -v "$tool" >/dev/null || fail "Please install $tool first (see README.md)."
	done
}

# install PACKAGE: installs a Debian package.
install() {
	command -v apt-get >/dev/null || fail "Please install the package $1; it can only be installed by itself on Debian and its kin."
	echo "Installing $1 …"
	as_root apt-get update -qq >/dev/null
	as_root env DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends "$1" >/dev/null
}

need_postgres() {
	ls /usr/lib/postgresql/*/bin/initdb >/dev/null 2>&1 && return
	# we run a server of our own; Debian's package need not start another
	as_root mkdir -p /etc/postgresql-common/createcluster.d
	echo "create_main_cluster = false" | as_root tee /etc/postgresql-common/createcluster.d/pinegate.conf >/dev/null
	install postgresql
}

need_chromium() { command -v chromium >/dev/null || install chromium; }

# changed STAMP FILE…: whether the contents of the files differ from when the
# stamp was made. Sets $digest.
changed() {
	local stamp=$1
	shift
	digest=$(find "$@" -type f -print0 | LC_ALL=C sort -z | xargs -0 sha256sum | sha256sum)
	[ ! -f "$stamp" ] || [ "$(cat "$stamp")" != "$digest" ]
}

npm_packages() {
	if changed web/node_modules/.stamp web/package-lock.json; then
		echo "Installing npm packages …"
		(cd web && npm ci --no-fund --no-audit --loglevel=error) || fail "The npm packages could not be installed."
		echo "$digest" > web/node_modules/.stamp
	fi
}

build() {
	npm_packages
	if changed web/node_modules/.built web/src web/public web/builder.html web/app.html web/vite.config.ts web/package-lock.json || [ ! -f web/dist/builder.html ]; then
		echo "Building the front end …"
		(cd web && npx --no-install vite build --logLevel=error) || fail "The front end could not be built."
		echo "$digest" > web/node_modules/.built
	fi
	mkdir -p bin
	go build -o bin/pinegate ./cmd/pinegate || fail "The server could not be built."
}
