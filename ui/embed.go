// Package ui holds the built interface.
package ui

import (
	"bytes"
	"compress/gzip"
	"embed"
	"io"
)

// Dist is the folder dist: the built interface, or nothing but a marker where it was not built. Its scripts and styles are compressed,
// as name.gz.
//
//go:embed all:dist
var Dist embed.FS

// Script gives a script of the built interface, unpacked.
func Script(name string) ([]byte, error) {
	data, err := Dist.ReadFile("dist/" + name + ".gz")
	if err != nil {
		return nil, err
	}
	return Unpack(data)
}

// Unpack unpacks a file of the built interface.
func Unpack(data []byte) ([]byte, error) {
	r, err := gzip.NewReader(bytes.NewReader(data))
	if err != nil {
		return nil, err
	}
	return io.ReadAll(r)
}
