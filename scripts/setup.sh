# What run-demo and run-tests share: installing Debian packages and building.

build_packages=(g++ cmake ninja-build libboost-dev libboost-program-options-dev libfmt-dev nlohmann-json3-dev
  libsqlitecpp-dev libsqlite3-dev libssl-dev libicu-dev zlib1g-dev libbz2-dev
  liblzma-dev libzstd-dev libflac-dev libfaad-dev libtiff-dev libjpeg62-turbo-dev libarchive-dev libwebp-dev
  libpng-dev libgif-dev librsvg2-dev libheif-dev libavcodec-dev libavformat-dev libswscale-dev libpoppler-glib-dev
  libcairo2-dev libpango1.0-dev libbrotli-dev libexpat1-dev libmount-dev libxxhash-dev libseccomp-dev pkg-config libtbb-dev)
browser_packages=(chromium chromium-driver)
test_packages=(libgtest-dev libgmock-dev strace coreutils python3 exfat-fuse exfatprogs ntfs-3g)

# install_packages GROUP...: installs what is missing of the groups `build`, `test` and `browser`.
install_packages() {
  local missing=() package group
  for group in "$@"; do
    declare -n packages="${group}_packages"
    for package in "${packages[@]}"; do
      dpkg-query -W -f='${Status}' "$package" 2>/dev/null | grep -q 'ok installed' || missing+=("$package")
    done
  done
  [ ${#missing[@]} -gt 0 ] || return 0
  local as_root=()
  [ "$(id -u)" -eq 0 ] || as_root=(sudo)
  echo "installing: ${missing[*]}" >&2
  "${as_root[@]}" apt-get update -qq
  DEBIAN_FRONTEND=noninteractive "${as_root[@]}" apt-get install -y -qq --no-install-recommends "${missing[@]}" >/dev/null
}

# build_in FOLDER [-D...] [--target NAME]: configures and builds; prints only when something goes wrong.
build_in() {
  local folder=$1 target=() defines=()
  shift
  while [ $# -gt 0 ]; do
    case $1 in
      --target) target=(--target "$2"); shift 2 ;;
      *) defines+=("$1"); shift ;;
    esac
  done
  local log
  log=$(mktemp)
  if ! { cmake -S . -B "$folder" -G Ninja -DUNDERSHELF_UNITY=ON "${defines[@]}" && cmake --build "$folder" "${target[@]}"; } >"$log" 2>&1; then
    cat "$log"
    rm -f "$log"
    return 1
  fi
  rm -f "$log"
}
