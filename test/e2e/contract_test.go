package e2e

import (
	"context"
	"io"
	"mime"
	"net/http"
	"path/filepath"
	"strings"
	"testing"

	"github.com/getkin/kin-openapi/openapi3"
	"github.com/getkin/kin-openapi/openapi3filter"
	"github.com/getkin/kin-openapi/routers"
	"github.com/getkin/kin-openapi/routers/legacy"
)

// promises is what the contract says of every route of the application at an address.
func promises(t *testing.T, url string) routers.Router {
	t.Helper()
	doc, err := openapi3.NewLoader().LoadFromFile(filepath.Join(root(t), "api/openapi.yaml"))
	if err != nil {
		t.Fatal(err)
	}
	doc.Servers = openapi3.Servers{{URL: url + "/api"}}
	router, err := legacy.NewRouter(doc)
	if err != nil {
		t.Fatal(err)
	}
	return router
}

// kept holds an answer against what the contract promises of its route: the kind of content, and for JSON
// every field that is required, with its type. What is no route is not in the contract.
func kept(t *testing.T, contract routers.Router, req *http.Request, resp *http.Response, body string) {
	t.Helper()
	name := req.Method + " " + req.URL.RequestURI()
	route, params, err := contract.FindRoute(req)
	if err != nil {
		if strings.HasPrefix(req.URL.Path, "/api/") && resp.StatusCode < 400 {
			t.Errorf("%s is answered and not in the contract: %v", name, err)
		}
		return
	}
	promise := route.Operation.Responses.Status(resp.StatusCode)
	if promise == nil {
		promise = route.Operation.Responses.Default()
	}
	kind, _, _ := mime.ParseMediaType(resp.Header.Get("Content-Type"))
	switch {
	case promise == nil || promise.Value == nil:
		t.Errorf("%s: the contract has no answer %d", name, resp.StatusCode)
	case len(promise.Value.Content) == 0 && body != "":
		t.Errorf("%s: %d has no content in the contract, and there is some: %s", name, resp.StatusCode, cut(body))
	case body != "" && promise.Value.Content[kind] == nil:
		t.Errorf("%s: %d is %s, which the contract does not promise", name, resp.StatusCode, kind)
	case kind == "application/json":
		input := &openapi3filter.ResponseValidationInput{
			RequestValidationInput: &openapi3filter.RequestValidationInput{Request: req, PathParams: params, Route: route},
			Status:                 resp.StatusCode, Header: resp.Header, Body: io.NopCloser(strings.NewReader(body)),
			Options: &openapi3filter.Options{IncludeResponseStatus: true},
		}
		if err := openapi3filter.ValidateResponse(context.Background(), input); err != nil {
			why, _, _ := strings.Cut(err.Error(), "Schema:")
			t.Errorf("%s: the answer %d is not as promised: %s", name, resp.StatusCode, strings.TrimSpace(why))
		}
	}
}
