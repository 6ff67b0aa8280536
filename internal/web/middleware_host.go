package web

import (
	"fmt"
	"net"
	"net/http"
	"net/url"
	"slices"
	"strings"
	"time"

	"aspenridge/internal/app"
)

// origin is how addresses of this installation begin: as it is said to be found. Where that is
// not said only loopback is served, by the name the request has.
func (s *Server) origin(r *http.Request) string {
	if s.address != "" {
		return s.address
	}
	if s.secure {
		return "https://" + r.Host
	}
	return "http://" + r.Host
}

// askedByName refuses requests for another host than this one (421, RFC 9110 15.5.20): no link is
// made of a name somebody else chose, and no foreign name that leads here is served. Whoever asks
// whether the server lives may call it as they like.
func (s *Server) askedByName(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.URL.Path != "/healthz" && r.URL.Path != "/readyz" && !s.isHost(r) {
			http.Error(w, "this server is not asked for by that name", http.StatusMisdirectedRequest)
			return
		}
		next.ServeHTTP(w, r)
	})
}

// isHost reports whether a request asks for this installation: by its address, by a name that is
// listed, or over loopback by a name of loopback.
func (s *Server) isHost(r *http.Request) bool {
	if u, err := url.Parse(s.address); s.address != "" && err == nil && strings.EqualFold(r.Host, u.Host) {
		return true
	}
	if slices.ContainsFunc(s.hosts, func(h string) bool { return strings.EqualFold(h, r.Host) }) {
		return true
	}
	host := r.Host
	if h, _, err := net.SplitHostPort(host); err == nil {
		host = h
	}
	ip := net.ParseIP(strings.Trim(host, "[]"))
	if host != "localhost" && (ip == nil || !ip.IsLoopback()) {
		return false
	}
	at, ok := r.Context().Value(http.LocalAddrContextKey).(*net.TCPAddr)
	return !ok || at.IP.IsLoopback()
}

// securityTxt is the file that says whom to tell of a fault (RFC 9116), "" without a contact.
func securityTxt(contact, address string, now time.Time) string {
	if contact == "" {
		return ""
	}
	out := fmt.Sprintf("Contact: %s\nExpires: %s\n", contact, now.AddDate(0, 11, 0).UTC().Format(time.RFC3339))
	if address != "" {
		out += "Canonical: " + address + "/.well-known/security.txt\n"
	}
	return out
}

func (s *Server) securityTxt(w http.ResponseWriter, _ *http.Request) error {
	if s.security == "" {
		return app.ErrNotFound
	}
	w.Header().Set("Content-Type", "text/plain; charset=utf-8")
	_, err := w.Write([]byte(s.security))
	return err
}
