// Package e2e drives the real application through a real browser: the binary
// that make build made, a MariaDB of its own, the kernel in its sandbox.
package e2e

import (
	"bufio"
	"context"
	"fmt"
	"io"
	"net/http"
	"net/http/cookiejar"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"sync"
	"sync/atomic"
	"syscall"
	"testing"
	"time"

	"github.com/getkin/kin-openapi/routers"
	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/launcher"
	"github.com/go-rod/rod/lib/proto"
)

// app is a running application with the demo school.
type app struct {
	t    *testing.T
	url  string
	data string
	cmd  *exec.Cmd
}

func root(t *testing.T) string {
	t.Helper()
	dir, err := filepath.Abs("../..")
	if err != nil {
		t.Fatal(err)
	}
	return dir
}

// checkedSchool is the folder of the small demo school with its attempts checked. The first test that wants
// it makes it; loading and checking the same anew for each would take longer than most of the tests.
var checkedSchool struct {
	once   sync.Once
	folder string
}

func TestMain(m *testing.M) {
	dir, err := os.MkdirTemp("", "hammerset-school-")
	if err != nil {
		panic(err)
	}
	checkedSchool.folder = dir
	code := m.Run()
	os.RemoveAll(dir)
	os.Exit(code)
}

// startApp starts the application on a copy of the demo school in which all attempts are checked. Tests that have one
// run beside one another: half of their time they wait for what is drawn.
func startApp(t *testing.T) *app {
	t.Helper()
	t.Parallel()
	return startAloneApp(t)
}

// startAloneApp starts the same while no other test runs, for what is measured or changes the process.
func startAloneApp(t *testing.T) *app {
	t.Helper()
	from := checkedSchool.folder
	checkedSchool.once.Do(func() {
		a := startAppIn(t, from)
		waitChecked(t, a, "ottoline", 3)
		a.stop()
	})
	data := folder(t)
	// The database's journal is mostly holes.
	if out, err := exec.Command("cp", "-a", "--sparse=always", from+"/.", data).CombinedOutput(); err != nil {
		t.Fatalf("copy the school: %v %s", err, out)
	}
	return startAppIn(t, data)
}

// startNewApp starts the application with a demo school of its own, nothing of which is checked.
func startNewApp(t *testing.T, args ...string) *app {
	t.Helper()
	return startAppIn(t, folder(t), args...)
}

// folder is a new one for data, which is removed after the test.
func folder(t *testing.T) string {
	t.Helper()
	dir, err := os.MkdirTemp("", "hammerset-e2e-")
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { os.RemoveAll(dir) })
	return dir
}

// startAppIn starts the demo with its data in the given folder.
func startAppIn(t *testing.T, data string, args ...string) *app {
	t.Helper()
	return startProgram(t, data, append([]string{"demo", "--whole=false"}, args...)...)
}

// startProgram starts what serves the application, with its data in the given folder, at any free address unless the
// arguments after the command name one: of a flag given twice the last counts.
func startProgram(t *testing.T, data string, args ...string) *app {
	t.Helper()
	a := &app{t: t, data: data}
	usual := []string{args[0], "--address", "127.0.0.1:0", "--data", data}
	a.cmd = exec.Command(filepath.Join(root(t), "bin/hammerset"), append(usual, args[1:]...)...)
	out, err := a.cmd.StdoutPipe()
	if err != nil {
		t.Fatal(err)
	}
	a.cmd.Stderr = os.Stderr
	if err := a.cmd.Start(); err != nil {
		t.Fatalf("start bin/hammerset (make build makes it): %v", err)
	}
	found := make(chan string, 1)
	go func() {
		lines := bufio.NewScanner(out)
		address := regexp.MustCompile(`http://\S+`)
		for lines.Scan() {
			if m := address.FindString(lines.Text()); m != "" {
				found <- m
			}
		}
	}()
	t.Cleanup(a.stop)
	select {
	case a.url = <-found:
	case <-time.After(90 * time.Second):
		t.Fatal("the application did not start")
	}
	return a
}

func (a *app) stop() {
	if a.cmd.ProcessState != nil {
		return
	}
	_ = a.cmd.Process.Signal(syscall.SIGINT) // as Ctrl-C does
	done := make(chan error, 1)
	go func() { done <- a.cmd.Wait() }()
	select {
	case err := <-done:
		if err != nil {
			a.t.Errorf("the application ended with %v", err)
		}
	case <-time.After(60 * time.Second):
		_ = a.cmd.Process.Kill()
		a.t.Error("the application did not stop on Ctrl-C")
	}
}

// client talks to the application as a signed-in person; an empty login is
// nobody.
type client struct {
	t        *testing.T
	url      string
	http     *http.Client
	contract routers.Router // every answer is held against it
}

func (a *app) client(login string) *client {
	a.t.Helper()
	jar, err := cookiejar.New(nil)
	if err != nil {
		a.t.Fatal(err)
	}
	c := &client{a.t, a.url, &http.Client{Jar: jar, Timeout: 60 * time.Second}, promises(a.t, a.url)}
	if login != "" {
		if code, body := c.do("POST", "/api/session", "application/json", fmt.Sprintf(`{"login":%q,"password":"marrowgate"}`,
			login)); code != 200 {
			a.t.Fatalf("sign in as %s: %d %s", login, code, body)
		}
	}
	return c
}

func (c *client) do(method, path, kind, body string) (int, string) {
	c.t.Helper()
	req, err := http.NewRequestWithContext(context.Background(), method, c.url+path, strings.NewReader(body))
	if err != nil {
		c.t.Fatal(err)
	}
	if kind != "" {
		req.Header.Set("Content-Type", kind)
	}
	resp, err := c.http.Do(req)
	if err != nil {
		c.t.Fatal(err)
	}
	defer resp.Body.Close()
	out, err := io.ReadAll(resp.Body)
	if err != nil {
		c.t.Fatal(err)
	}
	kept(c.t, c.contract, req, resp, string(out))
	return resp.StatusCode, string(out)
}

// listen counts how often somebody is told that something in their lists has changed, until the
// test ends. What happened just before is told at once and not counted.
func listen(t *testing.T, c *client) *atomic.Int32 {
	t.Helper()
	req, err := http.NewRequestWithContext(t.Context(), "GET", c.url+"/api/events", nil)
	if err != nil {
		t.Fatal(err)
	}
	resp, err := c.http.Do(req)
	if err != nil || resp.StatusCode != http.StatusOK {
		t.Fatal(err, resp)
	}
	told := &atomic.Int32{}
	go func() {
		defer resp.Body.Close()
		for lines := bufio.NewScanner(resp.Body); lines.Scan(); {
			if lines.Text() == "event:changed" {
				told.Add(1)
			}
		}
	}()
	time.Sleep(1500 * time.Millisecond)
	told.Store(0)
	return told
}

// startBrowser starts Debian's Chromium; it renders WebGL in software. Pages are put together without
// that renderer: it takes six times as long as Chromium.s own.
func startBrowser(t *testing.T) *rod.Browser {
	t.Helper()
	l := launcher.New().Bin("/usr/bin/chromium").Headless(true).NoSandbox(true).
		Set("disable-quic").Set("no-first-run").Set("disable-background-networking").Set("disable-component-update").
		Set("disable-sync").
		Set("disable-gpu-compositing").Set("use-angle", "swiftshader").Set("enable-unsafe-swiftshader").
		Set("window-size", "1280,800")
	u, err := l.Launch()
	if err != nil {
		t.Fatalf("start Chromium: %v", err)
	}
	b := rod.New().ControlURL(u)
	if err := b.Connect(); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() {
		_ = b.Close() // it may be gone
		l.Cleanup()
	})
	return b
}

// person is somebody at a browser of their own.
type person struct {
	*rod.Page
	t   *testing.T
	url string
}

// signIn opens the application in a new profile and signs in through the form.
func signIn(t *testing.T, b *rod.Browser, a *app, login string) *person {
	t.Helper()
	incognito, err := b.Incognito()
	if err != nil {
		t.Fatal(err)
	}
	page, err := incognito.Page(proto.TargetCreateTarget{URL: "about:blank"})
	if err != nil {
		t.Fatal(err)
	}
	if err := page.SetViewport(&proto.EmulationSetDeviceMetricsOverride{Width: 1280, Height: 800,
		DeviceScaleFactor: 1}); err != nil {
		t.Fatal(err)
	}
	p := &person{page.Timeout(6 * time.Minute), t, a.url}
	// Who is asked whether to leave a page that has not kept everything yet stays.
	go p.EachEvent(func(e *proto.PageJavascriptDialogOpening) {
		_ = proto.PageHandleJavaScriptDialog{Accept: e.Type != proto.PageDialogTypeBeforeunload}.Call(page)
	})()
	p.open("/")
	p.MustElement("input[name=login]").MustInput(login)
	p.MustElement("input[name=password]").MustInput("marrowgate")
	p.press("Sign in")
	p.find("nav a", "My models")
	return p
}

// printed says what is wrong with the page on paper: the band of the screen on it, or something cut off.
func (p *person) printed() string {
	p.t.Helper()
	media := proto.EmulationSetEmulatedMedia{Media: "print"}
	if err := media.Call(p.Page); err != nil {
		p.t.Fatal(err)
	}
	wrong := p.MustEval(`() => [...document.querySelectorAll("header nav, button")].filter((e) => e.checkVisibility())
		.map((e) => e.textContent + " is on it").concat([...document.querySelectorAll("body *")].filter((e) =>
		e.scrollHeight > e.clientHeight + 1 && ["auto", "scroll", "hidden"].includes(getComputedStyle(e).overflowY) &&
		e.checkVisibility() && !e.matches(".sr-only, input")).map((e) => e.id + " " + e.className + " is cut off"))
		.join(", ")`)
	if err := (proto.EmulationSetEmulatedMedia{}).Call(p.Page); err != nil {
		p.t.Fatal(err)
	}
	return wrong.Str()
}

// line cuts the line to the server, or makes each answer wait so many milliseconds.
func (p *person) line(cut bool, latency float64) {
	p.t.Helper()
	if err := (proto.NetworkEnable{}).Call(p.Page); err != nil {
		p.t.Fatal(err)
	}
	err := proto.NetworkEmulateNetworkConditions{Offline: cut, Latency: latency, DownloadThroughput: -1,
		UploadThroughput: -1}.Call(p.Page)
	if err != nil {
		p.t.Fatal(err)
	}
}

func (p *person) open(path string) {
	p.t.Helper()
	for range 100 {
		err := p.Navigate(p.url + path)
		if err == nil {
			p.MustWaitLoad()
			return
		}
		if !strings.Contains(err.Error(), "ERR_ABORTED") { // asked whether to leave, they stayed
			p.t.Fatal(err)
		}
		time.Sleep(100 * time.Millisecond)
	}
	p.t.Fatalf("%s could not be opened: the page before asks to stay", path)
}

// find waits for an element that shows a text. A page that is being loaded anew takes away what the search stood on;
// it begins again on the new one.
func (p *person) find(selector, text string) *rod.Element {
	p.t.Helper()
	end := time.Now().Add(90 * time.Second)
	for {
		e, err := p.Page.Timeout(time.Until(end)).ElementR(selector, regexp.QuoteMeta(text))
		if err == nil {
			return e.CancelTimeout()
		}
		if time.Now().Before(end) && p.GetContext().Err() == nil {
			time.Sleep(50 * time.Millisecond)
			continue
		}
		body, _ := p.Page.Timeout(5 * time.Second).Element("body")
		shown := ""
		if body != nil {
			shown, _ = body.Text()
		}
		p.t.Fatalf("no %s with %q on the page (%v):\n%s", selector, text, err, shown)
	}
}

func (p *person) see(text string) *rod.Element { p.t.Helper(); return p.find("body", text) }

func (p *person) press(name string) {
	p.t.Helper()
	p.find("button, a", name).MustClick()
}
