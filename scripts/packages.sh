#!/bin/sh
# Fetches packages as they are published, for the tests that read real code: scripts/packages.sh FOLDER
# Versions are pinned; what is there already is not fetched again; each registry may fail without the others.
set -u
folder=$1
mkdir -p "$folder/fetched" && cd "$folder" || exit 1

python() { # NAME VERSION
  [ -d "python/$1" ] && return
  pip download --quiet --no-deps --only-binary :all: --platform any --dest fetched "$1==$2" || return
  wheel=$(ls fetched | grep -i "^$1-.*whl") || return
  mkdir -p "python/$1" && python3 -m zipfile -e "fetched/$wheel" "python/$1"
}
script() { # NAME VERSION
  [ -d "script/$1" ] && return
  npm pack --silent --pack-destination fetched "$1@$2" >/dev/null || return
  mkdir -p "script/$1" && tar xzf "fetched/$1-$2.tgz" -C "script/$1" --strip-components 1
}
java() { # NAME VERSION
  [ -d "java/$1" ] && return
  (cd fetched && apt-get -q -o Dir::Etc::sourcelist=/dev/null -o Dir::Etc::sourceparts="$PWD/lists.d" -o Dir::State::lists="$PWD/lists" \
    source --download-only "$1=$2" >/dev/null 2>&1) || return
  mkdir -p "java/$1" && tar xf fetched/"$1"_*.orig.tar.* -C "java/$1" --strip-components 1
}
go() { # NAME PATH
  [ -d "go/$2" ] && return
  (cd fetched && apt-get -q download "$1" >/dev/null 2>&1 && dpkg-deb -x "$1"_*.deb "$PWD/$1") || return
  mkdir -p "go/$(dirname "$2")" && mv "fetched/$1/usr/share/gocode/src/$2" "go/$2" && rm -r "fetched/$1"
}

if command -v pip >/dev/null; then
  python click 8.1.7; python httpx 0.27.0; python requests 2.32.3; python rich 13.7.1; python sqlalchemy 2.0.30
fi
if command -v npm >/dev/null; then
  script zod 3.23.8; script hono 4.4.0; script rxjs 7.8.1; script express 4.19.2; script fastify 4.27.0
  [ -d compiler/node_modules/typescript ] || npm install --silent --no-save --prefix compiler typescript@5.4.5 >/dev/null
fi
if [ ! -d rust ]; then
  mkdir -p fetched/rust/src && : > fetched/rust/src/lib.rs
  printf '[package]\nname = "fetched"\nversion = "0.0.0"\nedition = "2021"\n[workspace]\n[dependencies]\nregex = "=1.13.2"\nclap_builder = "=4.6.7"\nnotify = "=8.2.2"\nignore = "=0.4.34"\nschemars = "=1.2.3"\n' > fetched/rust/Cargo.toml
  (cd fetched/rust && cargo vendor --quiet vendored >/dev/null 2>&1) && mkdir -p rust &&
    for name in regex clap_builder notify ignore schemars; do cp -r "fetched/rust/vendored/$name" rust/; done
fi
if command -v dpkg-deb >/dev/null; then
  mkdir -p fetched/lists.d fetched/lists/partial
  if [ ! -d java ]; then
    sed 's/^Types: deb$/Types: deb-src/' /etc/apt/sources.list.d/debian.sources > fetched/lists.d/sources.sources 2>/dev/null
    (cd fetched && apt-get -q -o Dir::Etc::sourcelist=/dev/null -o Dir::Etc::sourceparts="$PWD/lists.d" -o Dir::State::lists="$PWD/lists" update >/dev/null 2>&1)
  fi
  java guava-libraries 31.1-1
  # The same sources for other platforms.
  rm -rf java/guava-libraries/android java/guava-libraries/guava-gwt
  java jackson-core '2.14.1-2~deb12u1'; java libcommons-lang3-java '3.12.0-2+deb12u1'
  java commons-io 2.11.0-2; java libcommons-collections4-java 4.2-1
  go golang-google-grpc-dev google.golang.org/grpc; go golang-golang-x-tools-dev golang.org/x/tools
  go golang-github-prometheus-client-golang-dev github.com/prometheus/client_golang
  go golang-golang-x-net-dev golang.org/x/net; go golang-golang-x-text-dev golang.org/x/text
fi
