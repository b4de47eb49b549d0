package content_test

import (
	"fmt"

	"mantilla/core/content"
)

// A file is handed out as what its content is; one that claims to be another is refused.
func ExampleMedia() {
	picture := []byte("\x89PNG\r\n\x1a\n\x00\x00\x00\rIHDR")
	fmt.Println(content.Media("hive.png", picture))
	_, err := content.Media("hive.pdf", picture)
	fmt.Println(err)
	_, err = content.Media("hive.html", []byte("<script>"))
	fmt.Println(err)
	// Output:
	// image/png <nil>
	// hive.pdf is not what its name says: it does not begin as such a file does
	// "hive.html" is no kind of file that is kept here; use pdf, png, jpg, txt, md, csv, xlsx, docx, pptx, odt, ods or odp
}
