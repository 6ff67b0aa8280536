package stage

import (
	"io"
	"net"
	"net/url"
	"sync"
	"time"
)

// Proxy stands between the application and its database and lets through,
// delays, swallows or refuses what they say to each other.
type Proxy struct {
	URL string // of the database, by way of the proxy

	target string
	ln     net.Listener
	mu     sync.Mutex
	how    Weather
	conns  map[net.Conn]bool
}

// Weather is how a [Proxy] treats what goes through it.
type Weather int

// The weathers.
const (
	Fair    Weather = iota
	Slow            // everything takes 150 ms longer
	Silent          // what is said is swallowed, connections stay open
	Refused         // connections are broken off, new ones are not taken
)

// NewProxy stands before a database.
func NewProxy(database string) (*Proxy, error) {
	u, err := url.Parse(database)
	if err != nil {
		return nil, err
	}
	ln, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return nil, err
	}
	p := &Proxy{target: u.Host, ln: ln, conns: map[net.Conn]bool{}}
	u.Host = ln.Addr().String()
	p.URL = u.String()
	go p.serve()
	return p, nil
}

// Set changes the weather.
func (p *Proxy) Set(how Weather) {
	p.mu.Lock()
	defer p.mu.Unlock()
	p.how = how
	if how == Refused {
		for c := range p.conns {
			_ = c.Close()
		}
	}
}

// Close ends it.
func (p *Proxy) Close() {
	_ = p.ln.Close()
	p.Set(Refused)
}

func (p *Proxy) weather() Weather {
	p.mu.Lock()
	defer p.mu.Unlock()
	return p.how
}

func (p *Proxy) serve() {
	for {
		c, err := p.ln.Accept()
		if err != nil {
			return
		}
		if p.weather() == Refused {
			_ = c.Close()
			continue
		}
		go p.join(c)
	}
}

func (p *Proxy) join(c net.Conn) {
	d, err := net.Dial("tcp", p.target)
	if err != nil {
		_ = c.Close()
		return
	}
	p.mu.Lock()
	p.conns[c], p.conns[d] = true, true
	p.mu.Unlock()
	var both sync.WaitGroup
	pass := func(to, from net.Conn) {
		buf := make([]byte, 32<<10)
		for {
			n, err := from.Read(buf)
			if n > 0 {
				switch p.weather() {
				case Slow:
					time.Sleep(150 * time.Millisecond)
					_, err = to.Write(buf[:n])
				case Silent: // swallowed
				default:
					_, err = to.Write(buf[:n])
				}
			}
			if err != nil {
				if err != io.EOF {
					_ = from.Close()
				}
				_ = to.Close()
				return
			}
		}
	}
	both.Go(func() { pass(d, c) })
	both.Go(func() { pass(c, d) })
	both.Wait()
	p.mu.Lock()
	delete(p.conns, c)
	delete(p.conns, d)
	p.mu.Unlock()
}
