// Package storetest gives each test a database of its own on the server that
// PORCH_DATABASE names; ./run test starts one.
package storetest

import (
	"context"
	"crypto/rand"
	"database/sql"
	"net/url"
	"os"
	"strings"
	"testing"

	_ "github.com/jackc/pgx/v5/stdlib"

	"vividporch/store"
)

// URL makes an empty database and returns its address; it goes with the test.
func URL(t testing.TB) string {
	t.Helper()
	server := os.Getenv("PORCH_DATABASE")
	if server == "" {
		if os.Getenv("PORCH_TEST") != "" {
			t.Fatal("PORCH_DATABASE is not set")
		}
		t.Skip("needs PostgreSQL: run ./run test")
	}
	admin, err := sql.Open("pgx", server)
	if err != nil {
		t.Fatal(err)
	}
	name := "test_" + strings.ToLower(rand.Text())
	if _, err := admin.Exec("CREATE DATABASE " + name); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() {
		admin.Exec("DROP DATABASE " + name + " WITH (FORCE)")
		admin.Close()
	})
	u, err := url.Parse(server)
	if err != nil {
		t.Fatal(err)
	}
	u.Path = "/" + name
	return u.String()
}

// Admin is a connection to the server itself.
func Admin(t testing.TB) *sql.DB {
	t.Helper()
	admin, err := sql.Open("pgx", os.Getenv("PORCH_DATABASE"))
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { admin.Close() })
	return admin
}

// Open makes an empty database and opens a store on it.
func Open(t testing.TB) *store.Store {
	t.Helper()
	s, err := store.Open(context.Background(), URL(t))
	if err != nil {
		t.Fatal(err)
	}
	if err := s.Safe.UseKey([]byte("thirty-two bytes of low water...")); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { s.Close() })
	return s
}
