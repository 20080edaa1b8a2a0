#include "fat/entries.hpp"

#include "base/text.hpp"

namespace undershelf::fat {

Entry basic_entry(const ShortEntry& slots, const EntryKey& folder, const ReadOptions& options) {
    const auto& raw = slots.entry;
    Entry e;
    e.key = {slots.source_offset, 0};
    e.parent = folder;
    e.is_dir = raw.DIR_Attr & ATTR_DIRECTORY;
    e.attributes =
        raw.DIR_Attr & (attribute::read_only | attribute::hidden | attribute::system | attribute::archive);
    e.size = e.is_dir ? 0 : raw.DIR_FileSize.value();
    e.created = dos_time(raw.DIR_CrtDate.value(), raw.DIR_CrtTime.value(), raw.DIR_CrtTimeTenth,
                         options.zone_minutes);
    e.modified = dos_time(raw.DIR_WrtDate.value(), raw.DIR_WrtTime.value(), 0, options.zone_minutes);
    e.accessed = dos_time(raw.DIR_LstAccDate.value(), 0, 0, options.zone_minutes);
    return e;
}

void name_entry(Entry& e, const ShortEntry& slots, const CodePage& page, const SeriesLetters* siblings) {
    const auto shown = short_name(slots.entry, page, slots.erased, 0);
    if (slots.zeroed) e.evidence.push_back({Fact::zeroed_slots, 0, 0, {}});
    if (!slots.long_name.empty()) {
        e.name = utf8_from_utf16(slots.long_name);
        if (slots.long_name_cut) {
            e.name_certainty = NameCertainty::fragment;
            if (const auto ext = shown.rfind('.'); ext != std::string::npos) e.name += shown.substr(ext);
            e.evidence.push_back({Fact::name_fragment, 0, 0, shown});
        } else if (slots.erased) {
            if (slots.first_letter_agrees) {
                e.evidence.push_back({Fact::first_letter_solved, slots.first_letter, 0, shown});
            } else {
                e.evidence.push_back({Fact::long_name_checksum, 0, 0, shown});
            }
        }
        return;
    }
    e.name = shown;
    if (!slots.erased) return;
    if (const auto argued = argue_first_letter(slots, siblings, e)) {
        e.name = short_name(slots.entry, page, true, argued->letter);
        e.evidence.push_back({Fact::first_letter_argued, argued->letter, 0, argued->why});
    } else {
        e.name_certainty = NameCertainty::first_letter_unknown;
        e.evidence.push_back({Fact::first_letter_lost, 0, 0, {}});
    }
    if (!is_alias(e.name)) return;
    if (e.name_certainty == NameCertainty::full) e.name_certainty = NameCertainty::fragment;
    e.evidence.push_back({Fact::short_alias, 0, 0, {}});
}

}  // namespace undershelf::fat
