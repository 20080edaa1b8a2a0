#include "bins/ds_store.hpp"

#include <map>
#include <set>

#include "base/slash_path.hpp"
#include "base/text.hpp"

namespace undershelf {

namespace {

/// The file begins with a word of its own before the allocator, which counts from there.
constexpr std::size_t before_allocator = 4;
/// No Finder nests its tree deeper.
constexpr unsigned most_levels = 16;

/// Reads on in a block; once something does not fit, all that follows is 0 or empty.
class Reading {
  public:
    explicit Reading(Bytes bytes) : bytes_(bytes) {}
    bool fits() const { return fits_; }
    Bytes take(std::uint64_t n) {
        fits_ &= n <= bytes_.size() - at_;
        if (!fits_) return {};
        const auto out = bytes_.subspan(at_, static_cast<std::size_t>(n));
        at_ += static_cast<std::size_t>(n);
        return out;
    }
    std::uint32_t number() {
        std::uint32_t out = 0;
        for (const auto b : take(4)) out = out << 8 | b;
        return out;
    }
    std::string code() {
        const auto b = take(4);
        return {b.begin(), b.end()};
    }
    std::string text() {
        const auto b = take(std::uint64_t{number()} * 2);
        std::u16string out;
        for (std::size_t i = 0; i + 1 < b.size(); i += 2) out += static_cast<char16_t>(b[i] << 8 | b[i + 1]);
        return utf8_from_utf16(out);
    }

  private:
    Bytes bytes_;
    std::size_t at_ = 0;
    bool fits_ = true;
};

class Store {
  public:
    explicit Store(Bytes content) : content_(content), left_(content.size()) {}

    std::map<std::string, BinRecord> read() {
        Reading head(content_.size() < before_allocator ? Bytes() : content_.subspan(before_allocator));
        if (head.code() != "Bud1") return {};
        const auto offset = head.number(), size = head.number();
        read_allocator(part(offset, size));
        Reading tree(block(tree_));
        const auto root = tree.number();
        if (tree.fits()) read_node(root, 0);
        return std::move(found_);
    }

  private:
    Bytes part(std::uint64_t offset, std::uint64_t size) const {
        const auto from = offset + before_allocator;
        if (from > content_.size() || size > content_.size() - from) return {};
        return content_.subspan(static_cast<std::size_t>(from), static_cast<std::size_t>(size));
    }
    /// An address has the block's size in its lowest five bits, as a power of two.
    Bytes block(std::uint32_t number) const {
        if (number >= addresses_.size()) return {};
        const auto address = addresses_[number];
        return part(address & ~31u, 1ull << (address & 31));
    }

    void read_allocator(Bytes bytes) {
        Reading r(bytes);
        const auto count = r.number();
        r.number();
        for (std::uint32_t i = 0; i < count && r.fits(); ++i) addresses_.push_back(r.number());
        // Addresses have room in steps of 256; then comes the table of contents.
        for (std::uint32_t i = count; i % 256 != 0 && r.fits(); ++i) r.number();
        const auto names = r.number();
        for (std::uint32_t i = 0; i < names && r.fits(); ++i) {
            const auto length = r.take(1);
            const auto name = r.take(length.empty() ? 0 : length[0]);
            const auto number = r.number();
            if (std::string(name.begin(), name.end()) == "DSDB") tree_ = number;
        }
    }

    void read_node(std::uint32_t number, unsigned level) {
        const auto bytes = block(number);
        // Blocks do not overlap: together they are no more than the file.
        if (level > most_levels || bytes.size() > left_ || !seen_.insert(number).second) return;
        left_ -= bytes.size();
        Reading r(bytes);
        const auto last = r.number(), count = r.number();
        for (std::uint32_t i = 0; i < count && r.fits(); ++i) {
            if (last != 0) read_node(r.number(), level + 1);
            if (!read_record(r)) return;
        }
        if (last != 0 && r.fits()) read_node(last, level + 1);
    }

    bool read_record(Reading& r) {
        const auto name = r.text();
        const auto what = r.code(), type = r.code();
        if (type == "ustr") {
            const auto value = r.text();
            if (r.fits()) put(name, what, value);
        } else if (type == "blob") {
            r.take(r.number());
        } else if (type == "bool") {
            r.take(1);
        } else if (type == "long" || type == "shor" || type == "type") {
            r.take(4);
        } else if (type == "comp" || type == "dutc") {
            r.take(8);
        } else {
            return false;
        }
        return r.fits();
    }

    void put(const std::string& name, const std::string& what, const std::string& value) {
        if (what != "ptbL" && what != "ptbN") return;
        auto& record = found_[name];
        record.name = name;
        // The folder comes before the name: records are in the order of their codes.
        if (what == "ptbL") {
            const auto from = value.find_first_not_of('/'), to = value.find_last_not_of('/');
            folders_[name] = from == value.npos ? std::string() : value.substr(from, to + 1 - from);
            record.first_path = joined_path(folders_[name], name);
        } else {
            record.first_path = joined_path(folders_[name], value);
        }
    }

    Bytes content_;
    std::vector<std::uint32_t> addresses_;
    std::size_t left_;  ///< bytes of nodes that are still to come
    std::uint32_t tree_ = ~0u;
    std::set<std::uint32_t> seen_;
    std::map<std::string, std::string> folders_;
    std::map<std::string, BinRecord> found_;
};

}  // namespace

std::vector<BinRecord> parse_ds_store(Bytes content) {
    std::vector<BinRecord> out;
    for (auto& [name, record] : Store(content).read()) out.push_back(std::move(record));
    return out;
}

}  // namespace undershelf
