// ASF films and sounds, WMV and WMA (Advanced Systems Format Specification 1.20.03): a header of objects, a
// data object of packets of one size, each with the payloads of its streams, and indexes after.

#include <algorithm>
#include <array>
#include <map>

#include "content/density.hpp"
#include "content/format.hpp"
#include "content/list.hpp"
#include "content/media/asf_objects.hpp"
#include "content/media/media_units.hpp"

namespace undershelf::content {

namespace {

using namespace asf;

struct DataHead {
    ObjectHead object;
    char file_id[16];
    little_uint64_buf_t packets;
    little_uint16_buf_t reserved;
};
struct IndexHead {
    ObjectHead object;
    char file_id[16];
    little_uint64_buf_t interval;
    little_uint32_buf_t most_packets, entries;
};
constexpr std::uint32_t broadcast = 1;

/// Goes through a packet's fields. What does not fit in it is not taken, and `sound` says so.
class Packet {
  public:
    explicit Packet(Bytes bytes) : bytes_(bytes) {}
    /// A number whose length of 0, 1, 2 or 4 bytes two bits tell.
    std::uint32_t number(unsigned two_bits) {
        const std::size_t length = two_bits == 3 ? 4 : two_bits;
        if (!has(length)) return 0;
        std::uint32_t out = 0;
        for (std::size_t i = 0; i < length; ++i) out |= std::uint32_t{bytes_[at_ + i]} << (8 * i);
        at_ += length;
        return out;
    }
    std::uint8_t byte() { return static_cast<std::uint8_t>(number(1)); }
    void skip(std::size_t bytes) {
        if (has(bytes)) at_ += bytes;
    }
    bool sound() const { return sound_; }
    std::size_t at() const { return at_; }
    std::size_t left() const { return bytes_.size() - at_; }

  private:
    bool has(std::size_t bytes) { return sound_ = sound_ && bytes <= left(); }
    Bytes bytes_;
    std::size_t at_ = 0;
    bool sound_ = true;
};

/// Follows the payloads of all packets.
class Payloads {
  public:
    explicit Payloads(Density& density) : density_(density) {}

    /// Data packets (5.2): error correction, payload parsing information, payloads, padding.
    bool hold(Bytes bytes) {
        Packet packet(bytes);
        constexpr unsigned corrected = 0x80, several = 1;
        auto flags = packet.byte();
        if (flags & corrected) {
            if (flags & 0x70) return false;  // opaque data, or a length of a length: reserved
            packet.skip(flags & 0x0F);
            flags = packet.byte();
        }
        const auto properties = packet.byte();
        const auto length = packet.number(flags >> 5 & 3);
        packet.number(flags >> 1 & 3);
        const auto padding = packet.number(flags >> 3 & 3);
        packet.skip(6);  // its time and how long it lasts
        if (!packet.sound() || length > bytes.size() || padding > packet.left()) return false;
        const auto counted = flags & several ? packet.byte() : std::uint8_t{1};
        const unsigned count = flags & several ? counted & 0x3F : 1;
        const unsigned length_of_length = flags & several ? counted >> 6 : 0;
        if (count == 0 || (count > 1 && length_of_length == 0)) return false;
        const auto behind = padding + (length > 0 ? bytes.size() - length : 0);
        density_.add(packet.at());
        for (unsigned i = 0; i < count; ++i) {
            if (!payload(packet, properties, length_of_length, behind)) return false;
        }
        // Short packets say how much of them is filling.
        density_.add_unseen(packet.left());
        return packet.left() >= behind && packet.left() - behind < least_lost;
    }

  private:
    /// Some writers round what they fill.
    static constexpr std::size_t least_lost = 64;

    struct Unit {
        std::uint32_t number = 0, size = 0;
        std::uint64_t next = 0;
    };

    bool payload(Packet& packet, unsigned properties, unsigned length_of_length, std::size_t behind) {
        const auto start = packet.at();
        const unsigned stream = packet.byte() & 0x7F;
        const auto number = packet.number(properties >> 4 & 3);
        const auto offset = packet.number(properties >> 2 & 3);
        const auto replicated = packet.number(properties & 3);
        std::uint32_t size = 0;
        constexpr std::uint32_t packed = 1;  // several small units in one; `offset` is their time
        if (replicated >= 8) {
            size = packet.number(3);
            packet.skip(replicated - 4);
        } else if (replicated == packed) {
            packet.skip(1);
        } else if (replicated != 0) {
            return false;
        }
        if (!packet.sound() || packet.left() < behind) return false;
        const auto length = length_of_length ? packet.number(length_of_length)
                                             : static_cast<std::uint32_t>(packet.left() - behind);
        packet.skip(length);
        density_.add(packet.at() - start);
        if (!packet.sound() || packet.left() < behind) return false;
        return replicated < 8 || goes_on(stream, {number, size, std::uint64_t{offset} + length}, offset);
    }
    /// Parts of a unit follow each other and stay inside it.
    bool goes_on(unsigned stream, const Unit& part, std::uint32_t offset) {
        auto& last = streams_[stream];
        const bool same = part.number == last.number && part.size == last.size && offset > 0;
        const bool fits = part.size == 0 || part.next <= part.size;
        const bool follows = !same || offset == last.next;
        last = part;
        return fits && follows;
    }

    Density& density_;
    std::map<unsigned, Unit> streams_;  ///< of seven bits
};

class AsfCheck {
  public:
    explicit AsfCheck(Content& content) : content_(content) {}

    Check run() {
        out_.format = "asf";
        out_.strength = Strength::weak;
        if (!header()) return out_;
        const auto data = object_at(content_, at_);
        if (!data || data->id != data_object) return out_.fails(at_, "its data do not follow its header");
        if (!packets(*data)) return out_;
        out_.strength = density_.strength();
        indexes();
        if (!out_.why.empty()) return out_;
        if (!(properties_->flags.value() & broadcast) && properties_->file_size.value() > at_) {
            out_.cut = at_ >= content_.size();
            return out_.fails(std::min(at_, content_.size()), "it ends before its length says");
        }
        return out_.ends(at_);
    }

  private:
    bool header() {
        const auto whole = object_at(content_, 0);
        if (whole->end() > content_.size()) {
            out_.fails(content_.size(), "it ends within its header");
            return false;
        }
        std::array<std::uint8_t, sizeof(HeaderHead)> bytes;
        content_.read(0, bytes);
        std::uint64_t at = sizeof(HeaderHead);
        for (auto left = load<HeaderHead>(bytes)->objects.value(); left > 0 && at < whole->end(); --left) {
            const auto object = object_at(content_, at);
            if (!object || object->end() > whole->end()) {
                out_.fails(at, "its header makes no sense");
                return false;
            }
            if (object->id == file_properties && object->size >= sizeof(FileProperties)) {
                std::array<std::uint8_t, sizeof(FileProperties)> fields;
                if (content_.read(at, fields) == fields.size()) properties_ = load<FileProperties>(fields);
            }
            at = object->end();
        }
        at_ = whole->end();
        if (!properties_) out_.fails(at, "its header does not say how large its packets are");
        return properties_.has_value();
    }

    bool packets(const Object& data) {
        std::array<std::uint8_t, sizeof(DataHead)> bytes;
        if (content_.read(data.at, bytes) < bytes.size()) {
            out_.fails(data.at, "its data are cut off");
            return false;
        }
        const bool open_ended = properties_->flags.value() & broadcast;
        const std::uint64_t size = properties_->most_packet.value();
        auto count = load<DataHead>(bytes)->packets.value();
        const auto first = data.at + sizeof(DataHead);
        if (size == 0 || size != properties_->least_packet.value()) {
            out_.fails(first, "its packets are not of one size");
            return false;
        }
        if (open_ended && count == 0)
            count = (std::min(std::max(data.end(), first), content_.size()) - first) / size;
        Cursor at(content_, first);
        Payloads payloads(density_);
        for (; count > 0; --count) {
            const auto packet_at = at.at();
            if (size > content_.size() - std::min(packet_at, content_.size())) {
                out_.cut = true;
                out_.fails(content_.size(), "it ends before its last packet");
                return false;
            }
            const auto packet = at.take(static_cast<std::size_t>(std::min<std::uint64_t>(size, at.window)));
            const auto behind = size - packet.size();
            if ((behind > 0 && !readable(content_, at.at(), behind)) || packet.empty()) {
                out_.fails(packet_at, "bytes of it are missing");
                return false;
            }
            // Of larger ones only the bytes are known to be there.
            if (behind > 0) {
                density_.add(size);
            } else if (!payloads.hold(packet)) {
                out_.fails(packet_at, "a packet makes no sense");
                return false;
            }
            at.go_to(packet_at + size);
        }
        at_ = at.at();
        if (!open_ended && data.end() != at_) {
            out_.fails(std::min(at_, content_.size()), "its data are not as long as they say");
            return false;
        }
        return true;
    }

    /// After the data, as far as the length that the file states for itself goes.
    void indexes() {
        const auto most = std::min(content_.size(), properties_->file_size.value());
        while (at_ < most) {
            const auto object = object_at(content_, at_);
            if (!object || object->end() > most) return;
            if (object->id == simple_index && !index_holds(*object)) {
                out_.fails(object->at, "its index makes no sense");
                return;
            }
            if (!readable(content_, object->at, object->size)) {
                out_.fails(object->at, "bytes of it are missing");
                return;
            }
            at_ = object->end();
        }
    }
    /// Every entry tells a packet that there is.
    bool index_holds(const Object& object) {
        Cursor at(content_, object.at);
        const auto head = at.take_structure<IndexHead>();
        if (!head || object.size < sizeof(IndexHead) ||
            head->entries.value() > (object.size - sizeof(IndexHead)) / 6)
            return false;
        for (auto left = head->entries.value(); left > 0; --left) {
            const auto packet = at.take_structure<little_uint32_buf_t>();
            if (!packet || !at.take_structure<little_uint16_buf_t>()) return false;
            if (properties_->packets.value() > 0 && packet->value() > properties_->packets.value())
                return false;
        }
        return true;
    }

    Content& content_;
    Check out_;
    Density density_;
    std::optional<FileProperties> properties_;
    std::uint64_t at_ = 0;
};

class Asf final : public FormatReader {
  public:
    Recognised recognise(Bytes first) const override {
        const auto head = load<HeaderHead>(first);
        const bool sane = head && head->object.id() == header_object && head->reserved2 == 2 &&
                          head->object.size.value() > sizeof(HeaderHead) &&
                          head->object.size.value() < ~0ull / 2;
        return {"asf", sane ? 1.0 : 0.0};
    }
    Check check(Content& content, const CheckLimits&) const override { return AsfCheck(content).run(); }
    std::string title(Content& content) const override { return asf::title(content); }
    InnerDates dates(Content& content) const override { return asf::dates(content); }
    ContentDetails details(Content& content) const override { return asf::details(content); }
    std::string_view extension(Content& content) const override { return asf::extension(content); }
};

constexpr OtherKind sounds[] = {{Kind::audio, " wma "}};
constexpr Format rows[] = {
    {.word = "asf",
     .name = "ASF video",
     .kind = Kind::video,
     .extensions = " wmv wma asf ",
     .others = sounds,
     .family = "asf",
     .strength = Strength::fair,
     .delay = 64 * KiB,
     .holds_files = true,
     .marks = "0&"sv},
};

}  // namespace

FormatRows asf_formats() {
    static const Asf reader;
    return {rows, &reader};
}

}  // namespace undershelf::content
