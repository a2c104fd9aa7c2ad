// Package description holds the description of the interface, as the service offers it,
// and what each operation asks for before its body is read.
package description

import (
	_ "embed"
	"fmt"
	"strings"

	"go.yaml.in/yaml/v3"
)

// Text is the OpenAPI description.
//
//go:embed openapi.yaml
var Text []byte

// Operation is what the description says of one operation, beside its parameters.
type Operation struct {
	ID      string
	Says    string // what it does, for people
	Method  string
	Path    string // as the description writes it, with {name} for what varies
	Role    string // the least role that it needs; Open needs none
	MaxBody int64  // the largest body that it takes, in bytes
	// Repeatable tells that it finds out by itself what a request with the same key has done
	// before, and ends as the first one would have.
	Repeatable bool
	// Secret tells that its answer holds what is nowhere kept in clear.
	Secret bool
}

// Open is the role of an operation that needs no sign-in.
const Open = "open"

// DefaultMaxBody is the largest body of an operation that says nothing else: 32 MB.
const DefaultMaxBody = 32 << 20

// Route gives the path as the router writes it: :name for what varies.
func (o Operation) Route() string {
	return strings.NewReplacer("{", ":", "}", "").Replace(o.Path)
}

// Operations lists all operations. One without a role is an error: nobody could say who
// may do it.
func Operations() ([]Operation, error) {
	var doc struct {
		Paths map[string]map[string]yaml.Node `yaml:"paths"`
	}
	if err := yaml.Unmarshal(Text, &doc); err != nil {
		return nil, fmt.Errorf("the description of the interface: %w", err)
	}
	var out []Operation
	for path, methods := range doc.Paths {
		for method, node := range methods {
			if method == "parameters" {
				continue
			}
			var op struct {
				ID         string `yaml:"operationId"`
				Summary    string `yaml:"summary"`
				Role       string `yaml:"x-role"`
				MaxBody    int64  `yaml:"x-max-body"`
				Repeatable bool   `yaml:"x-repeatable"`
				Secret     bool   `yaml:"x-secret"`
			}
			if err := node.Decode(&op); err != nil {
				return nil, fmt.Errorf("the description of %s %s: %w", method, path, err)
			}
			if op.Role == "" {
				return nil, fmt.Errorf("the description of %s %s names no x-role", method, path)
			}
			if op.MaxBody == 0 {
				op.MaxBody = DefaultMaxBody
			}
			out = append(out, Operation{
				ID: op.ID, Says: strings.TrimSuffix(op.Summary, "."), Method: strings.ToUpper(method), Path: path,
				Role: op.Role, MaxBody: op.MaxBody, Repeatable: op.Repeatable, Secret: op.Secret,
			})
		}
	}
	return out, nil
}
