package web

import (
	"net"
	"net/http"
	"net/netip"
	"strings"

	"github.com/go-chi/httprate"
)

// network is where a request comes from: the connection, or behind one of our
// proxies the last address that proxy did not make up itself. Addresses of
// version 6 count by their network of 64 bits.
func (s *Server) network(r *http.Request) string {
	host, _, err := net.SplitHostPort(r.RemoteAddr)
	if err != nil {
		host = r.RemoteAddr
	}
	forwarded := strings.Split(strings.Join(r.Header.Values("X-Forwarded-For"), ","), ",")
	for i := len(forwarded) - 1; i >= 0 && s.isProxy(host); i-- {
		if next := strings.TrimSpace(forwarded[i]); next != "" {
			host = next
		}
	}
	return httprate.CanonicalizeIP(host)
}

func (s *Server) isProxy(host string) bool {
	a, err := netip.ParseAddr(host)
	if err != nil {
		return false
	}
	for _, p := range s.proxies {
		if p.Contains(a.Unmap()) {
			return true
		}
	}
	return false
}
