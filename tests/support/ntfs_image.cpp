#include "support/ntfs_image.hpp"

#include <cstring>

#include "ntfs/file_system.hpp"
#include "ntfs/structures.hpp"
#include "support/disk_image.hpp"
#include "support/heads.hpp"

namespace undershelf::test::ntfs {

using namespace undershelf::ntfs;

ByteVector resident(std::uint32_t type, Bytes value, const std::u16string& name) {
    const auto value_at = (24 + name.size() * 2 + 7) / 8 * 8;
    ByteVector a((value_at + value.size() + 7) / 8 * 8);
    put_number(a, 0, type, 4);
    put_number(a, 4, a.size(), 4);
    a[9] = static_cast<std::uint8_t>(name.size());
    put_number(a, 10, 24, 2);
    for (std::size_t i = 0; i < name.size(); ++i) put_number(a, 24 + i * 2, name[i], 2);
    put_number(a, 16, value.size(), 4);
    put_number(a, 20, value_at, 2);
    std::copy(value.begin(), value.end(), a.begin() + static_cast<std::ptrdiff_t>(value_at));
    return a;
}

ByteVector non_resident(std::uint32_t type, const std::vector<TestRun>& runs, std::uint64_t size,
                        std::uint64_t valid, std::uint16_t flags, std::uint64_t svcn,
                        const std::u16string& name) {
    ByteVector list;
    std::uint64_t clusters = 0;
    for (const auto& r : runs) {
        const int count_bytes = r.count < 256 ? 1 : 8;
        list.push_back(static_cast<std::uint8_t>((r.step ? 0x20 : 0) | count_bytes));
        for (int i = 0; i < count_bytes; ++i) list.push_back(static_cast<std::uint8_t>(r.count >> 8 * i));
        if (r.step)
            list.push_back(static_cast<std::uint8_t>(r.step)),
                list.push_back(static_cast<std::uint8_t>(r.step >> 8));
        clusters += r.count;
    }
    list.push_back(0);
    const auto runs_at = (64 + name.size() * 2 + 7) / 8 * 8;
    ByteVector a((runs_at + list.size() + 7) / 8 * 8);
    put_number(a, 0, type, 4);
    put_number(a, 4, a.size(), 4);
    a[8] = 1;
    a[9] = static_cast<std::uint8_t>(name.size());
    put_number(a, 10, 64, 2);
    for (std::size_t i = 0; i < name.size(); ++i) put_number(a, 64 + i * 2, name[i], 2);
    put_number(a, 12, flags, 2);
    put_number(a, 16, svcn, 8);
    put_number(a, 24, svcn + clusters - 1, 8);
    put_number(a, 32, runs_at, 2);
    a[34] = flags & 1 ? 4 : 0;
    put_number(a, 40, clusters * cluster, 8);
    put_number(a, 48, size, 8);
    put_number(a, 56, valid, 8);
    std::copy(list.begin(), list.end(), a.begin() + static_cast<std::ptrdiff_t>(runs_at));
    return a;
}

ByteVector file_name(std::uint64_t parent, std::uint16_t sequence, const std::u16string& name,
                     std::uint8_t type, std::uint32_t fa) {
    ByteVector v(66 + name.size() * 2);
    put_number(v, 0, parent | std::uint64_t{sequence} << 48, 8);
    for (const std::size_t at : {8, 16, 24, 32}) put_number(v, at, when, 8);
    put_number(v, 56, fa, 4);
    v[64] = static_cast<std::uint8_t>(name.size());
    v[65] = type;
    for (std::size_t i = 0; i < name.size(); ++i) put_number(v, 66 + i * 2, name[i], 2);
    return v;
}

ByteVector index_entry(std::uint64_t ref, const ByteVector& name) {
    ByteVector e((16 + name.size() + 7) / 8 * 8);
    put_number(e, 0, ref, 8);
    put_number(e, 8, e.size(), 2);
    put_number(e, 10, name.size(), 2);
    std::copy(name.begin(), name.end(), e.begin() + 16);
    return e;
}

ByteVector journal_record(int version, std::uint64_t file, std::uint64_t folder, const std::u16string& name,
                          std::uint32_t reason, std::uint64_t time, std::uint32_t fa) {
    const std::size_t wide = version == 3 ? 16 : 8, names_at = 44 + 2 * wide;
    ByteVector r((names_at + name.size() * 2 + 7) / 8 * 8);
    put_number(r, 0, r.size(), 4);
    put_number(r, 4, static_cast<std::uint64_t>(version), 2);
    put_number(r, 8, file, 8);
    put_number(r, 8 + wide, folder, 8);
    const auto rest = 8 + 2 * wide;
    put_number(r, rest + 8, time, 8);
    put_number(r, rest + 16, reason, 4);
    put_number(r, rest + 28, fa, 4);
    put_number(r, rest + 32, name.size() * 2, 2);
    put_number(r, rest + 34, names_at, 2);
    for (std::size_t i = 0; i < name.size(); ++i) put_number(r, names_at + i * 2, name[i], 2);
    return r;
}

ByteVector plain_record(std::uint64_t n, std::uint16_t sequence, std::uint16_t flags,
                        const std::vector<ByteVector>& attributes, std::uint64_t base, std::size_t size) {
    ByteVector r(size);
    std::memcpy(r.data(), "FILE", 4);
    put_number(r, 4, 48, 2);
    put_number(r, 6, size / 512 + 1, 2);
    put_number(r, 16, sequence, 2);
    const std::size_t first = (48 + (size / 512 + 1) * 2 + 7) / 8 * 8;
    put_number(r, 20, first, 2);
    put_number(r, 22, flags, 2);
    put_number(r, 28, size, 4);
    put_number(r, 32, base, 8);
    put_number(r, 44, n, 4);
    std::size_t at = first;
    for (const auto& a : attributes) {
        std::copy(a.begin(), a.end(), r.begin() + static_cast<std::ptrdiff_t>(at));
        at += a.size();
    }
    put_number(r, at, 0xFFFFFFFF, 4);
    put_number(r, 24, at + 8, 4);
    return r;
}

Bytes as_bytes(const std::string& s) {
    return {reinterpret_cast<const std::uint8_t*>(s.data()), s.size()};
}

void put_fixups(MutableBytes r, std::size_t array) {
    r[array] = r[array + 1] = 5;
    for (std::size_t i = 1; i <= r.size() / 512; ++i) {
        auto* tail = r.data() + i * 512 - 2;
        std::copy_n(tail, 2, r.data() + array + i * 2);
        tail[0] = tail[1] = 5;
    }
}

Image::Image() : bytes(ntfs_head()) {
    record(0, 1, 1, {non_resident(ATTR_DATA, {{4, 32}}, 32 * cluster, 32 * cluster)});
    record(5, 5, 3, {});
}

void Image::record(std::uint64_t n, std::uint16_t sequence, std::uint16_t flags,
                   const std::vector<ByteVector>& attributes, std::uint64_t base) {
    write(n, plain_record(n, sequence, flags, attributes, base));
}

void Image::write(std::uint64_t n, ByteVector r) {
    put_fixups(r, 48);
    put(place(n), r);
}

void Image::put(std::size_t at, Bytes what) {
    std::copy(what.begin(), what.end(), bytes.begin() + static_cast<std::ptrdiff_t>(at));
}

void Image::fill(std::uint64_t lcn, const std::string& content) {
    put(lcn * cluster, as_bytes(content));
}

namespace {
void append_units(ByteVector& out, const std::u16string& text) {
    for (const char16_t c : text) {
        out.push_back(static_cast<std::uint8_t>(c));
        out.push_back(static_cast<std::uint8_t>(c >> 8));
    }
}
}  // namespace

ByteVector link_value(const std::u16string& substitute, const std::u16string& print, bool junction) {
    ByteVector out(junction ? 16 : 20);
    put_number(out, 0, junction ? 0xA0000003 : 0xA000000C, 4);
    put_number(out, 4, out.size() - 8 + 2 * (substitute.size() + print.size()), 2);
    put_number(out, 10, 2 * substitute.size(), 2);
    put_number(out, 12, 2 * substitute.size(), 2);
    put_number(out, 14, 2 * print.size(), 2);
    append_units(out, substitute);
    append_units(out, print);
    return out;
}

ByteVector stored_link_bytes(const std::u16string& target) {
    ByteVector out{'I', 'n', 't', 'x', 'L', 'N', 'K', 1};
    append_units(out, target);
    return out;
}

ByteVector Image::times(std::uint32_t fa) {
    ByteVector v(48);
    put_number(v, 32, fa, 4);
    for (const std::size_t at : {0, 8, 16, 24}) put_number(v, at, when, 8);
    return resident(ATTR_STD, v);
}

ByteVector Image::name(std::uint64_t parent, std::uint16_t sequence, const std::u16string& text,
                       std::uint8_t type) {
    return resident(ATTR_NAME, file_name(parent, sequence, text, type));
}

Collector read(const ByteVector& bytes) {
    return read_volume(undershelf::ntfs::file_system(), bytes);
}

}  // namespace undershelf::test::ntfs
