// Package platform talks to the learning platform of a school: it takes rosters from there and gives results, both as
// OneRoster 1.2 CSV.
package platform

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"strings"
	"time"
)

// largest is how large a roster may be.
const largest = 32 << 20

// Client is a platform at an address.
type Client struct {
	url  string
	http *http.Client
}

// New makes a client for a platform at https://host/path; http is for this machine alone.
func New(address string) (*Client, error) {
	u, err := url.Parse(address)
	local := err == nil && (u.Hostname() == "localhost" || strings.HasPrefix(u.Hostname(), "127."))
	if err != nil || u.Host == "" || u.Scheme != "https" && !(u.Scheme == "http" && local) {
		return nil, fmt.Errorf("%q is no address of a platform: write https://host/path", address)
	}
	return &Client{strings.TrimSuffix(address, "/"), &http.Client{Timeout: 30 * time.Second}}, nil
}

// Roster is the roster of the school, as a zip.
func (c *Client) Roster(ctx context.Context) ([]byte, error) {
	return c.do(ctx, http.MethodGet, "/roster.zip", nil)
}

// Results gives the platform results, as a zip.
func (c *Client) Results(ctx context.Context, data []byte) error {
	_, err := c.do(ctx, http.MethodPost, "/results", data)
	return err
}

func (c *Client) do(ctx context.Context, method, path string, body []byte) ([]byte, error) {
	req, err := http.NewRequestWithContext(ctx, method, c.url+path, bytes.NewReader(body))
	if err != nil {
		return nil, err
	}
	req.Header.Set("Content-Type", "application/zip")
	resp, err := c.http.Do(req)
	if err != nil {
		return nil, fmt.Errorf("the platform does not answer: %w", err)
	}
	defer resp.Body.Close()
	data, err := io.ReadAll(io.LimitReader(resp.Body, largest+1))
	switch {
	case err != nil:
		return nil, fmt.Errorf("the platform broke off: %w", err)
	case len(data) > largest:
		return nil, errors.New("the platform sends more than is taken")
	case resp.StatusCode >= 300:
		said := strings.TrimSpace(string(data[:min(len(data), 200)]))
		return nil, fmt.Errorf("the platform answers %s: %s", resp.Status, said)
	}
	return data, nil
}
