package main

import "github.com/spf13/cobra"

func serveCommand() *cobra.Command   { return &cobra.Command{Use: "serve"} }
func workCommand() *cobra.Command    { return &cobra.Command{Use: "work"} }
func migrateCommand() *cobra.Command { return &cobra.Command{Use: "migrate"} }
func demoCommand() *cobra.Command    { return &cobra.Command{Use: "demo"} }
