package main

import (
	"context"
	"crypto/ecdsa"
	"crypto/elliptic"
	"crypto/rand"
	"crypto/sha256"
	"crypto/tls"
	"crypto/x509"
	"crypto/x509/pkix"
	"encoding/pem"
	"errors"
	"fmt"
	"math/big"
	"net"
	"net/http"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"time"

	"vividporch/core/housefile"
	"vividporch/porch"
)

// home is the house's second way in, over TLS in the home network, with a certificate of its own:
// nobody vouches for it but the person who compares its fingerprint once.
type home struct {
	listen string // address to listen on, ":8443"
	file   string // of the certificate and its key
	serve  http.Handler

	mu  sync.Mutex
	srv *http.Server
}

// homePorts is how many ports are tried, from the first on.
const homePorts = 20

// reach opens the way in, or shuts it, as the settings say; and tells the house how it stands.
func (o *home) reach(h *porch.House, r housefile.Reach) {
	o.mu.Lock()
	defer o.mu.Unlock()
	switch {
	case r.How != housefile.Home && o.srv != nil:
		ctx, cancel := context.WithTimeout(context.Background(), drainFor)
		defer cancel()
		o.srv.Shutdown(ctx)
		o.srv.Close() // the live streams too
		o.srv = nil
		h.SetHome(nil)
	case r.How == housefile.Home && o.srv == nil:
		at, err := o.open()
		if err != nil {
			at = &porch.AtHome{Trouble: err.Error()}
		}
		h.SetHome(at)
	}
}

func (o *home) open() (*porch.AtHome, error) {
	ips, err := addresses()
	if err != nil {
		return nil, err
	}
	if host, _, err := net.SplitHostPort(o.listen); err == nil { // it was said which
		if ip := net.ParseIP(host); ip != nil && !ip.IsUnspecified() {
			ips = []net.IP{ip}
		}
	}
	if len(ips) == 0 {
		return nil, errors.New("this machine is in no network; connect it, and choose this again")
	}
	cert, err := certificate(o.file, ips)
	if err != nil {
		return nil, err
	}
	ln, err := listenNear(o.listen)
	if err != nil {
		return nil, err
	}
	o.srv = &http.Server{ReadHeaderTimeout: headWithin, IdleTimeout: idleFor, Handler: o.serve, TLSConfig: &tls.Config{MinVersion: tls.VersionTLS12, Certificates: []tls.Certificate{cert}}}
	go o.srv.ServeTLS(ln, "", "")
	port := ln.Addr().(*net.TCPAddr).Port
	at := &porch.AtHome{Fingerprint: fingerprint(cert.Certificate[0])}
	for _, ip := range ips {
		at.Addresses = append(at.Addresses, "https://"+net.JoinHostPort(ip.String(), fmt.Sprint(port)))
	}
	return at, nil
}

// listenNear listens on an address, or on the next free port after it.
func listenNear(address string) (net.Listener, error) {
	host, port, err := net.SplitHostPort(address)
	if err != nil {
		return nil, fmt.Errorf("PORCH_HOME %q is no address: write host:port, such as :8443", address)
	}
	first, err := net.LookupPort("tcp", port)
	if err != nil {
		return nil, err
	}
	for n := range homePorts {
		ln, lerr := net.Listen("tcp", net.JoinHostPort(host, fmt.Sprint(first+n)))
		if lerr == nil {
			return ln, nil
		}
		err = lerr
	}
	return nil, fmt.Errorf("no port is free from %d on: %w", first, err)
}

// addresses are this machine's in its own networks, those most people have first.
func addresses() ([]net.IP, error) {
	list, err := net.InterfaceAddrs()
	if err != nil {
		return nil, err
	}
	var out []net.IP
	for _, a := range list {
		if n, ok := a.(*net.IPNet); ok && n.IP.To4() != nil && n.IP.IsPrivate() {
			out = append(out, n.IP.To4())
		}
	}
	slices.SortStableFunc(out, func(a, b net.IP) int { return usual(b) - usual(a) })
	return out, nil
}

// usual is higher for the networks that routers make at home.
func usual(ip net.IP) int {
	switch {
	case ip[0] == 192:
		return 2
	case ip[0] == 10:
		return 1
	}
	return 0
}

// certFor is how long a certificate is good: browsers take none that is good for longer than 825
// days (CA/Browser Forum, ballot 193).
const certFor = 800 * 24 * time.Hour

// certificate is the house's own, made when it is not there, about to end, or not of one of the
// addresses. Its key stays the same.
func certificate(file string, ips []net.IP) (tls.Certificate, error) {
	raw, err := os.ReadFile(file)
	if err == nil {
		cert, err := tls.X509KeyPair(raw, raw)
		if err != nil {
			return cert, fmt.Errorf("the certificate in %s does not match its key: take the file away, and a new one is made: %w", file, err)
		}
		leaf, err := x509.ParseCertificate(cert.Certificate[0])
		if err == nil && time.Until(leaf.NotAfter) > 30*24*time.Hour && !slices.ContainsFunc(ips, func(ip net.IP) bool { return leaf.VerifyHostname(ip.String()) != nil }) {
			return cert, nil
		}
		if key, ok := cert.PrivateKey.(*ecdsa.PrivateKey); ok {
			return makeCertificate(file, key, ips)
		}
	} else if !errors.Is(err, os.ErrNotExist) {
		return tls.Certificate{}, fmt.Errorf("the house's certificate cannot be read: %w", err)
	}
	key, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	if err != nil {
		return tls.Certificate{}, err
	}
	return makeCertificate(file, key, ips)
}

func makeCertificate(file string, key *ecdsa.PrivateKey, ips []net.IP) (tls.Certificate, error) {
	number, err := rand.Int(rand.Reader, new(big.Int).Lsh(big.NewInt(1), 120))
	if err != nil {
		return tls.Certificate{}, err
	}
	name, _ := os.Hostname() // none where there is none
	tpl := &x509.Certificate{SerialNumber: number, Subject: pkix.Name{CommonName: "Vivid Porch at home"}, NotBefore: time.Now().Add(-time.Hour), NotAfter: time.Now().Add(certFor),
		KeyUsage: x509.KeyUsageDigitalSignature, ExtKeyUsage: []x509.ExtKeyUsage{x509.ExtKeyUsageServerAuth}, BasicConstraintsValid: true, IPAddresses: append(slices.Clone(ips), net.IPv4(127, 0, 0, 1))}
	if name != "" {
		tpl.DNSNames = []string{name, name + ".local"}
	}
	der, err := x509.CreateCertificate(rand.Reader, tpl, tpl, &key.PublicKey, key)
	if err != nil {
		return tls.Certificate{}, err
	}
	pkcs8, err := x509.MarshalPKCS8PrivateKey(key)
	if err != nil {
		return tls.Certificate{}, err
	}
	raw := append(pem.EncodeToMemory(&pem.Block{Type: "CERTIFICATE", Bytes: der}), pem.EncodeToMemory(&pem.Block{Type: "PRIVATE KEY", Bytes: pkcs8})...)
	if err := os.MkdirAll(filepath.Dir(file), 0o700); err != nil {
		return tls.Certificate{}, fmt.Errorf("the house's certificate cannot be kept: %w", err)
	}
	if err := os.WriteFile(file, raw, 0o600); err != nil {
		return tls.Certificate{}, fmt.Errorf("the house's certificate cannot be kept: %w", err)
	}
	return tls.X509KeyPair(raw, raw)
}

// fingerprint is what browsers show of a certificate: its SHA-256, byte by byte.
func fingerprint(der []byte) string {
	sum := sha256.Sum256(der)
	out := make([]string, len(sum))
	for i, b := range sum {
		out[i] = fmt.Sprintf("%02X", b)
	}
	return strings.Join(out, ":")
}
