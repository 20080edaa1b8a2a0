#pragma once
// The objects of a PDF, found by their heads (`12 0 obj`) and in object streams (ISO 32000-1, 7.5.7), for
// what wants to know what a file says rather than whether it holds.

#include <map>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "content/content.hpp"

namespace undershelf::content {

struct PdfObject {
    std::string dictionary;                        ///< or whatever is there, up to its stream
    std::uint64_t stream_at = 0, stream_size = 0;  ///< bytes, as they are packed
};

/// A literal string (7.3.4.2) whose bracket is at `at`, escapes undone, to its end or that of `text`;
/// `at` goes on after it.
std::string pdf_literal(std::string_view text, std::size_t& at);

class PdfObjects {
  public:
    /// Reads the first 64 MiB of a file at most, and unpacks as much at most.
    explicit PdfObjects(Content& content);

    const std::map<int, PdfObject>& all() const { return objects_; }
    const PdfObject* find(int number) const;
    /// A stream's bytes, inflated where it is deflated; empty where it is packed in another way.
    std::string stream(const PdfObject& object);

    /// The object that a key refers to.
    static std::optional<int> reference(std::string_view dictionary, std::string_view key);
    /// All keys that refer to objects, with these.
    static std::vector<std::pair<std::string, int>> references(std::string_view dictionary);

  private:
    void find_objects();
    void unpack_object_streams();
    void read_object(std::size_t head, std::size_t behind);

    /// Finds the same word again and again, further back each time, at the cost of looking once.
    class Next {
      public:
        Next(const std::string& bytes, std::string_view word) : bytes_(bytes), word_(word) {}
        std::size_t from(std::size_t at);

      private:
        const std::string& bytes_;
        std::string_view word_;
        std::size_t from_ = 0, found_ = 0;
        bool looked_ = false;
    };

    std::string bytes_;
    Next end_of_object_{bytes_, "endobj"}, end_of_stream_{bytes_, "endstream"};
    std::map<int, PdfObject> objects_;
    // Bytes that may still be unpacked, given out and kept.
    std::uint64_t input_left_ = 256 << 20, output_left_ = 64 << 20, kept_left_ = 64 << 20;
};

}  // namespace undershelf::content
