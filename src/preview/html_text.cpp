#include "preview/html_text.hpp"

#include <openssl/evp.h>

#include <array>

#include "base/error.hpp"
#include "base/printable.hpp"

namespace undershelf {

std::string html_text(std::string_view text) {
    std::string out;
    for (const char c : without_controls(text)) {
        switch (c) {
            case '&':
                out += "&amp;";
                break;
            case '<':
                out += "&lt;";
                break;
            case '>':
                out += "&gt;";
                break;
            case '"':
                out += "&quot;";
                break;
            case '\'':
                out += "&#39;";
                break;
            default:
                out += c;
        }
    }
    return out;
}

std::string base64(std::string_view bytes) {
    std::string out((bytes.size() + 2) / 3 * 4 + 1, '\0');
    const int length =
        EVP_EncodeBlock(reinterpret_cast<unsigned char*>(out.data()),
                        reinterpret_cast<const unsigned char*>(bytes.data()), static_cast<int>(bytes.size()));
    out.resize(static_cast<std::size_t>(length));
    return out;
}

std::string policy_hash(std::string_view inside) {
    std::array<unsigned char, 32> sum{};
    unsigned length = 0;
    if (EVP_Digest(inside.data(), inside.size(), sum.data(), &length, EVP_sha256(), nullptr) != 1)
        throw Error(Trouble::output, "The page's checksums cannot be worked out.");
    return "'sha256-" + base64({reinterpret_cast<const char*>(sum.data()), sum.size()}) + "'";
}

}  // namespace undershelf
