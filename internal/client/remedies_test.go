package client

import (
	"testing"

	description "compactparcel/api"
	"compactparcel/internal/api"

	"github.com/stretchr/testify/require"
	"go.yaml.in/yaml/v3"
)

// remedyCodes reads the codes from the description of the interface.
func remedyCodes(t *testing.T) []api.RemedyCode {
	var doc struct {
		Components struct {
			Schemas map[string]struct {
				Enum []string `yaml:"enum"`
			} `yaml:"schemas"`
		} `yaml:"components"`
	}
	require.NoError(t, yaml.Unmarshal(description.Text, &doc))
	var out []api.RemedyCode
	for _, c := range doc.Components.Schemas["RemedyCode"].Enum {
		require.True(t, api.RemedyCode(c).Valid())
		out = append(out, api.RemedyCode(c))
	}
	require.NotEmpty(t, out)
	return out
}
