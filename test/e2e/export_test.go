package e2e

import (
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
)

// TestExportFromTheMenu writes files from the modeller's menu: a model without a solid says so there and is
// not left, and a document comes as a file.
func TestExportFromTheMenu(t *testing.T) {
	a := startApp(t)
	b := startBrowser(t)
	ada := signIn(t, b, a, "ada")
	_, answer := a.client("ada").do("POST", "/api/models", "application/json", `{"name":"Nothing yet","unit":"mm"}`)
	id := regexp.MustCompile(`"id":(\d+)`).FindStringSubmatch(answer)[1]
	folder := t.TempDir()
	if err := (proto.BrowserSetDownloadBehavior{Behavior: proto.BrowserSetDownloadBehaviorBehaviorAllow,
		BrowserContextID: ada.Browser().BrowserContextID, DownloadPath: folder}).Call(b); err != nil {
		t.Fatal(err)
	}
	ada.open("/models/" + id)
	ada.see("Nothing yet")
	ada.MustElementR("summary, button", "^Model$").MustClick()
	ada.press("Export STEP, AP242")
	ada.see("Add a step that makes one")
	ada.see("Nothing yet")
	ada.Keyboard.MustType(input.Escape)
	ada.MustElementR("summary, button", "^Model$").MustClick()
	ada.press("Export model document")
	eventually(t, "the document is written", func() bool {
		data, err := os.ReadFile(filepath.Join(folder, "Nothing yet.json"))
		return err == nil && strings.Contains(string(data), `"model/1"`)
	})
}
