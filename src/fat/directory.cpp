#include "fat/directory.hpp"

#include <algorithm>
#include <cstring>

#include "base/text.hpp"
#include "content/kinds.hpp"

namespace undershelf::fat {

std::uint8_t name_checksum(const std::uint8_t name[11]) {
    std::uint8_t sum = 0;
    for (int i = 0; i < 11; ++i) sum = static_cast<std::uint8_t>((sum >> 1 | sum << 7) + name[i]);
    return sum;
}

std::uint8_t solve_first_byte(const std::uint8_t name[11], std::uint8_t checksum) {
    std::uint8_t sum = checksum;
    for (int i = 10; i > 0; --i) {
        const auto before = static_cast<std::uint8_t>(sum - name[i]);
        sum = static_cast<std::uint8_t>(before << 1 | before >> 7);
    }
    return sum;
}

namespace {

constexpr std::size_t units_per_slot = 13;
constexpr std::size_t most_long_slots = 20;

bool is_long_slot(const std::uint8_t* slot) {
    return (slot[11] & ATTR_LONG_NAME_MASK) == ATTR_LONG_NAME && slot[12] == 0 && slot[26] == 0 &&
           slot[27] == 0;
}

struct SlotText {
    std::u16string units;  ///< up to the terminator
    bool terminated = false;
    bool sound = true;  ///< only padding is after the terminator
};

SlotText text_of(const std::uint8_t* slot) {
    LongNameEntry e;
    std::memcpy(&e, slot, sizeof e);
    char16_t all[units_per_slot];
    std::size_t n = 0;
    for (const auto& u : e.LDIR_Name1) all[n++] = u.value();
    for (const auto& u : e.LDIR_Name2) all[n++] = u.value();
    for (const auto& u : e.LDIR_Name3) all[n++] = u.value();
    SlotText out;
    for (std::size_t i = 0; i < units_per_slot; ++i) {
        if (out.terminated) {
            out.sound &= all[i] == 0xFFFF;
        } else if (all[i] == 0) {
            out.terminated = true;
        } else {
            out.units += all[i];
        }
    }
    out.sound &= !out.units.empty();
    return out;
}

bool same_letter(char16_t a, std::uint8_t b) {
    const auto upper = [](unsigned c) { return c >= 'a' && c <= 'z' ? c - 32 : c; };
    return upper(a) == upper(b);
}

bool is_legal_short(std::uint8_t c) {
    return c > 0x20 && c != 0x7F && !std::strchr("\"*+,./:;<=>?[\\]|", c) && !(c >= 'a' && c <= 'z');
}

/// Collects the long name that is directly before the short entry at `index`, walking back.
class LongNameWalk {
  public:
    LongNameWalk(const FolderBytes& folder, std::vector<bool>& used) : folder_(folder), used_(used) {}

    void collect(ShortEntry& slots) {
        const std::uint8_t* own = folder_.slot(slots.index);
        // Of an erased entry the last byte that its long slots have tells the checksum.
        std::uint8_t checksum = slots.erased ? 0 : name_checksum(own);
        std::u16string name;
        bool terminated = false, complete = false;
        std::vector<std::size_t> taken;
        for (std::size_t back = 1; back <= most_long_slots && back <= slots.index && !complete; ++back) {
            const auto i = slots.index - back;
            const std::uint8_t* slot = folder_.slot(i);
            if (!folder_.readable(i) || used_[i] || !is_long_slot(slot) || !goes_with(slot, own, back)) break;
            if (slots.erased && back == 1) checksum = slot[13];
            if (slot[13] != checksum) break;
            const auto text = text_of(slot);
            if (!text.sound) break;
            name += text.units;
            taken.push_back(i);
            terminated = text.terminated;
            complete = terminated || (!is_mark(slot[0]) && slot[0] & LAST_LONG_ENTRY);
        }
        if (taken.empty() || (!slots.erased && !complete)) return;
        if (slots.erased) {
            slots.first_letter = solve_first_byte(own, checksum);
            slots.first_letter_agrees =
                is_legal_short(slots.first_letter) && same_letter(name.front(), slots.first_letter);
            slots.long_name_cut = !complete && !shows_its_end(name, own);
            // Some firmware works the checksum out once the mark is set: then it covers the mark, and tells
            // nothing of the letter.
            const bool covers_mark = slots.first_letter == own[0];
            const bool told = !covers_mark && is_legal_short(slots.first_letter);
            if ((slots.long_name_cut || !told) && contradicts(name, own)) return;
            // Nothing else tells slots that begin as an end mark does from what is no entry at all.
            if (slots.zeroed && (slots.long_name_cut || !(told || covers_mark))) return;
        }
        for (const auto i : taken) used_[i] = true;
        slots.long_name = std::move(name);
    }

  private:
    static bool is_mark(std::uint8_t first) { return first == slot_erased || first == slot_end; }

    /// Does the long slot `back` before a short entry have what belongs there in its first byte? What was
    /// deleted has the same mark as its short entry; some firmware marks short entries alone. Where no
    /// mark was written, the ordinals count up from 1.
    static bool goes_with(const std::uint8_t* slot, const std::uint8_t* own, std::size_t back) {
        if (is_mark(slot[0])) return slot[0] == own[0];
        return own[0] != slot_end && (slot[0] & ~LAST_LONG_ENTRY) == back;
    }

    /// A name of a multiple of 13 units has no terminator; then its end still shows the short entry's
    /// extension, or one that is usual where its writer gives short entries none.
    static bool shows_its_end(const std::u16string& name, const std::uint8_t* entry) {
        if (name.size() % units_per_slot != 0) return false;
        std::size_t n = 0;
        while (n < 3 && entry[8 + n] != ' ') ++n;
        const auto dot = name.rfind(u'.');
        if (n == 0)
            return dot == std::u16string::npos ||
                   kind_of_extension(folded(utf8_from_utf16(name.substr(dot + 1)))) != Kind::other;
        if (dot == std::u16string::npos || name.size() - dot - 1 < n) return false;
        for (std::size_t i = 0; i < n; ++i) {
            if (!same_letter(name[dot + 1 + i], entry[8 + i]) && name[dot + 1 + i] < 0x80) return false;
        }
        return true;
    }
    /// A cut long name must at least begin like the rest of the short one.
    static bool contradicts(const std::u16string& name, const std::uint8_t* entry) {
        return name.size() > 1 && name[1] < 0x80 && entry[1] > 0x20 && entry[1] < 0x80 &&
               is_legal_short(entry[1]) && entry[1] != '_' && entry[1] != '~' &&
               is_legal_short(
                   static_cast<std::uint8_t>(name[1] >= 'a' && name[1] <= 'z' ? name[1] - 32 : name[1])) &&
               !same_letter(name[1], entry[1]);
    }

    const FolderBytes& folder_;
    std::vector<bool>& used_;
};

bool is_dot_entry(const std::uint8_t* slot) {
    static constexpr char rest[] = "          ";
    const bool second =
        std::memcmp(slot + 1, rest, 10) == 0 || (slot[1] == '.' && std::memcmp(slot + 2, rest, 9) == 0);
    return second && (slot[0] == '.' || (slot[0] == slot_erased && (slot[11] & ATTR_DIRECTORY)));
}

/// Long-name slots that no short entry wanted, joined while they are together under one checksum.
std::vector<Orphan> collect_orphans(const FolderBytes& folder, const std::vector<bool>& used) {
    std::vector<Orphan> out;
    for (std::size_t i = folder.slots(); i-- > 0;) {
        if (used[i] || !folder.readable(i) || !is_long_slot(folder.slot(i)) || folder.slot(i)[0] == slot_end)
            continue;
        Orphan orphan{{}, i, folder.source_offset(i)};
        const auto checksum = folder.slot(i)[13];
        bool terminated = false;
        std::size_t at = i + 1, steps = 0;
        while (at > 0 && !terminated && steps++ < most_long_slots) {
            const auto* slot = folder.slot(at - 1);
            if (used[at - 1] || !folder.readable(at - 1) || !is_long_slot(slot) || slot[13] != checksum)
                break;
            const auto text = text_of(slot);
            if (!text.sound) break;
            orphan.name += text.units;
            terminated = text.terminated;
            --at;
        }
        if (!orphan.name.empty()) {
            out.push_back(std::move(orphan));
            i = at;
        }
    }
    std::reverse(out.begin(), out.end());
    return out;
}

bool is_zeroed_long_slot(const FolderBytes& folder, std::size_t i) {
    return folder.readable(i) && folder.slot(i)[0] == slot_end && is_long_slot(folder.slot(i));
}

}  // namespace

FolderNotes walk_folder(const FolderBytes& folder, const std::function<bool(ShortEntry&&)>& visit) {
    FolderNotes out;
    std::vector<bool> used(folder.slots());
    LongNameWalk walk(folder, used);
    bool ended = false;
    for (std::size_t i = 0; i < folder.slots(); ++i) {
        if (!folder.readable(i)) {
            ++out.unreadable_slots;
            continue;
        }
        const auto* slot = folder.slot(i);
        const bool zeroed = slot[0] == slot_end;
        ended |= zeroed;
        if (is_long_slot(slot) || is_dot_entry(slot)) continue;
        if (zeroed && (i == 0 || !is_zeroed_long_slot(folder, i - 1))) continue;
        ShortEntry found;
        std::memcpy(&found.entry, slot, slot_size);
        found.index = i;
        found.source_offset = folder.source_offset(i);
        found.erased = zeroed || slot[0] == slot_erased;
        found.zeroed = zeroed;
        found.after_end = ended && !zeroed;
        walk.collect(found);
        if (zeroed && found.long_name.empty()) continue;
        (found.after_end ? out.leftovers : out.lost) |= found.after_end || found.erased;
        if (!visit(std::move(found))) return out;
    }
    out.orphans = collect_orphans(folder, used);
    out.leftovers |= !out.orphans.empty();
    return out;
}

Listing parse_folder(const FolderBytes& folder) {
    Listing out;
    static_cast<FolderNotes&>(out) = walk_folder(folder, [&](ShortEntry&& slots) {
        out.entries.push_back(std::move(slots));
        return true;
    });
    return out;
}

bool is_plausible(const DirEntry& e, bool erased) {
    if (e.DIR_Attr & 0xC0 || e.DIR_NTRes & ~0x18) return false;
    const auto* n = e.DIR_Name;
    if (!erased && (n[0] == ' ' || (n[0] < 0x20 && n[0] != kanji_e5))) return false;
    for (int i = erased ? 1 : 0; i < 11; ++i) {
        if (n[i] == ' ' || (i == 0 && n[i] == kanji_e5)) continue;
        if (!is_legal_short(n[i])) return false;
    }
    // After the first blank of either part only blanks may follow.
    for (int i = 2; i < 11; ++i) {
        if (i != 8 && n[i] != ' ' && n[i - 1] == ' ') return false;
    }
    const auto date_ok = [](std::uint16_t d) {
        return d == 0 || ((d >> 5 & 15) >= 1 && (d >> 5 & 15) <= 12 && (d & 31) >= 1);
    };
    const auto time_ok = [](std::uint16_t t) {
        return (t >> 11) < 24 && (t >> 5 & 63) < 60 && (t & 31) < 30;
    };
    if (!date_ok(e.DIR_CrtDate.value()) || !date_ok(e.DIR_WrtDate.value()) ||
        !date_ok(e.DIR_LstAccDate.value()))
        return false;
    if (!time_ok(e.DIR_CrtTime.value()) || !time_ok(e.DIR_WrtTime.value()) || e.DIR_CrtTimeTenth > 199)
        return false;
    return !((e.DIR_Attr & ATTR_DIRECTORY) && e.DIR_FileSize.value() != 0);
}

bool begins_with_dots(Bytes cluster) {
    if (cluster.size() < 2 * slot_size) return false;
    const auto* p = cluster.data();
    return std::memcmp(p, ".          ", 11) == 0 && std::memcmp(p + slot_size, "..         ", 11) == 0 &&
           (p[11] & ATTR_DIRECTORY) && (p[slot_size + 11] & ATTR_DIRECTORY);
}

bool looks_like_slots(Bytes cluster) {
    bool any = false, zeroed = false;
    for (std::size_t at = 0; at + slot_size <= cluster.size(); at += slot_size) {
        const auto* slot = cluster.data() + at;
        if (slot[0] == slot_end && all_zero(cluster.subspan(at, slot_size)))
            return any && all_zero(cluster.subspan(at));
        // Entries that were deleted with zeros are the last ones, and have long names.
        if (zeroed && slot[0] != slot_end) return false;
        if (is_long_slot(slot)) {
            const auto order = slot[0] & ~LAST_LONG_ENTRY;
            zeroed = slot[0] == slot_end;
            if (!zeroed && slot[0] != slot_erased && (order < 1 || order > static_cast<int>(most_long_slots)))
                return false;
        } else {
            DirEntry e;
            std::memcpy(&e, slot, slot_size);
            if (slot[0] == slot_end && !zeroed) return false;
            if (!is_plausible(e, slot[0] == slot_erased || zeroed) || is_dot_entry(slot)) return false;
        }
        any = true;
    }
    return any;
}

bool names_something(const DirEntry& e, bool erased) {
    return !(e.DIR_Attr & ATTR_VOLUME_ID) && e.DIR_Name[0] != '.' && is_plausible(e, erased);
}

std::optional<DirEntry> short_entry_at(Bytes slots, std::size_t at) {
    const auto e = *load<DirEntry>(slots, at);
    // Slots of long names have the label's bit as well.
    return names_something(e, e.DIR_Name[0] == slot_erased) ? std::optional(e) : std::nullopt;
}

std::optional<DirEntry> first_entry_in(Bytes slots) {
    for (std::size_t at = 0; at + slot_size <= slots.size() && slots[at] != slot_end; at += slot_size) {
        if (const auto e = short_entry_at(slots, at)) return e;
    }
    return std::nullopt;
}

std::string short_name(const DirEntry& e, const CodePage& page, bool erased, std::uint8_t first) {
    std::uint8_t raw[11];
    std::memcpy(raw, e.DIR_Name, sizeof raw);
    if (erased) raw[0] = first ? first : '_';
    if (raw[0] == kanji_e5) raw[0] = slot_erased;
    const auto part = [&](std::size_t from, std::size_t n, bool lower) {
        while (n > 0 && raw[from + n - 1] == ' ') --n;
        auto text = page.utf8({raw + from, n});
        return lower ? folded(text) : text;
    };
    auto name = part(0, 8, e.DIR_NTRes & case_lower_base);
    if (const auto ext = part(8, 3, e.DIR_NTRes & case_lower_ext); !ext.empty()) name += "." + ext;
    return name;
}

std::string label_of(const DirEntry& e, const CodePage& page) {
    std::uint8_t raw[11];
    std::memcpy(raw, e.DIR_Name, sizeof raw);
    if (raw[0] == kanji_e5) raw[0] = slot_erased;
    const auto end = std::find(std::begin(raw), std::end(raw), 0);
    auto n = static_cast<std::size_t>(end - raw);
    while (n > 0 && raw[n - 1] == ' ') --n;
    return page.utf8({raw, n});
}

MaybeTime dos_time(std::uint16_t date, std::uint16_t time, std::uint8_t tenths,
                   std::optional<int> zone_minutes) {
    CivilTime c{1980 + (date >> 9), date >> 5 & 15, date & 31, time >> 11, time >> 5 & 63, (time & 31) * 2};
    if (date == 0 || !is_valid(c) || tenths > 199) return std::nullopt;
    Timestamp t{seconds_from_civil(c) * Timestamp::per_second + tenths * (Timestamp::per_second / 100),
                Timestamp::local};
    if (zone_minutes) {
        t.ticks -= *zone_minutes * 60 * Timestamp::per_second;
        t.offset_minutes = static_cast<std::int16_t>(*zone_minutes);
    }
    return t;
}

}  // namespace undershelf::fat
