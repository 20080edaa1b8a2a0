#include "ntfs/past_lives.hpp"

#include <algorithm>

namespace undershelf::ntfs {

namespace {
// A busy volume's journal must not fill the memory; a life takes about 200 bytes.
constexpr std::size_t most_lives = 1 << 20;
constexpr std::size_t most_names = 16;
}  // namespace

void PastLives::take(Mention&& m) {
    const auto found = lives_.find(m.file);
    if (found == lives_.end() && lives_.size() >= most_lives) {
        full_ = true;
        return;
    }
    auto& life = found == lives_.end() ? lives_[m.file] : found->second;
    KnownName name{m.folder, std::move(m.name), m.when};
    auto it = std::find(life.names.begin(), life.names.end(), name);
    if (it == life.names.end()) {
        if (life.names.size() >= most_names) return;
        if (life.names.empty()) life.source = m.source;
        it = life.names.insert(it, std::move(name));
    } else if (m.when && (!it->when || it->when->ticks < m.when->ticks)) {
        it->when = m.when;
    }
    // Undated mentions say nothing on which name was the last; the name before a renaming never was.
    const auto index = static_cast<std::size_t>(it - life.names.begin());
    const auto& last = life.names[life.last];
    if (m.when && m.what != Mention::What::renamed && (!last.when || last.when->ticks <= m.when->ticks))
        life.last = index;
    life.is_dir |= m.is_dir;
    if (m.what == Mention::What::deleted) life.deleted = m.when;
    if (m.created) life.created = m.created;
    if (m.modified) life.modified = m.modified;
    if (m.size) life.size = m.size;
}

const PastLives::Life* PastLives::find(const Reference& file) const {
    const auto it = lives_.find(file);
    return it == lives_.end() ? nullptr : &it->second;
}

}  // namespace undershelf::ntfs
