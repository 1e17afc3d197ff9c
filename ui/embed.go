// Package ui holds the built interface.
package ui

import "embed"

// Dist is the folder dist: the built interface, or nothing but a marker where it was not built.
//
//go:embed all:dist
var Dist embed.FS
