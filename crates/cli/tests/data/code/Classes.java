// Reads a Java tree with the parser of the JDK.
//
//     java Classes.java FOLDER
//
// Writes JSON with two lists. `classes` holds [file, name, bases, members]: the name with those of the classes around it, bases without
// their arguments. `imports` holds [file, line, name, found]: the file below FOLDER that declares what is imported, or null; of several
// the nearest.

import com.sun.source.tree.*;
import com.sun.source.util.*;
import java.io.*;
import java.nio.file.*;
import java.util.*;
import java.util.stream.*;
import javax.tools.*;

public class Classes {
    static final List<String> CLASSES = new ArrayList<>();
    static final List<String> IMPORTS = new ArrayList<>();

    static String row(Object... values) {
        return text(Arrays.asList(values));
    }

    static String text(Object value) {
        if (value instanceof Collection<?> all) return all.stream().map(Classes::text).collect(Collectors.joining(",", "[", "]"));
        if (value instanceof Number || value == null) return String.valueOf(value);
        return "\"" + value.toString().replace("\\", "\\\\").replace("\"", "\\\"").replace("\n", " ") + "\"";
    }

    static String plain(Tree type) {
        return type.toString().replaceAll("<.*", "").replaceAll("@\\S+ ", "").trim();
    }

    static void type(ClassTree tree, String around, String file) {
        String name = around + tree.getSimpleName();
        List<String> bases = new ArrayList<>();
        if (tree.getExtendsClause() != null) bases.add(plain(tree.getExtendsClause()));
        tree.getImplementsClause().forEach(base -> bases.add(plain(base)));
        Set<String> members = new LinkedHashSet<>();
        List<ClassTree> inner = new ArrayList<>();
        for (Tree member : tree.getMembers()) {
            if (member instanceof VariableTree variable) members.add(variable.getName().toString());
            else if (member instanceof MethodTree method)
                members.add(method.getName().contentEquals("<init>") ? tree.getSimpleName().toString() : method.getName().toString());
            else if (member instanceof ClassTree type) inner.add(type);
        }
        CLASSES.add(row(file, name, bases, members));
        inner.forEach(type -> type(type, name + ".", file));
    }

    static int shared(String a, String b) {
        int same = 0;
        while (same < Math.min(a.length(), b.length()) && a.charAt(same) == b.charAt(same)) same++;
        return same;
    }

    public static void main(String[] arguments) throws IOException {
        Path root = Path.of(arguments[0]).toRealPath();
        List<Path> files;
        try (Stream<Path> all = Files.walk(root)) {
            files = all.filter(path -> path.toString().endsWith(".java")).sorted().toList();
        }
        JavaCompiler compiler = ToolProvider.getSystemJavaCompiler();
        StandardJavaFileManager manager = compiler.getStandardFileManager(null, null, null);
        DiagnosticListener<JavaFileObject> silent = diagnostic -> {};
        JavacTask task = (JavacTask) compiler.getTask(null, manager, silent, List.of(), null, manager.getJavaFileObjectsFromPaths(files));
        List<CompilationUnitTree> units = new ArrayList<>();
        task.parse().forEach(units::add);
        SourcePositions positions = Trees.instance(task).getSourcePositions();
        Map<String, List<String>> types = new HashMap<>();
        for (CompilationUnitTree unit : units) {
            String file = root.relativize(Path.of(unit.getSourceFile().toUri())).toString();
            String start = unit.getPackageName() == null ? "" : unit.getPackageName() + ".";
            for (Tree tree : unit.getTypeDecls()) {
                if (tree instanceof ClassTree type) {
                    types.computeIfAbsent(start + type.getSimpleName(), name -> new ArrayList<>()).add(file);
                    type(type, "", file);
                }
            }
        }
        for (CompilationUnitTree unit : units) {
            String file = root.relativize(Path.of(unit.getSourceFile().toUri())).toString();
            for (ImportTree tree : unit.getImports()) {
                String name = tree.getQualifiedIdentifier().toString();
                if (name.endsWith(".*") && !tree.isStatic()) continue;
                String found = null;
                for (String at = name; found == null && at.contains("."); at = at.substring(0, at.lastIndexOf('.'))) {
                    List<String> all = types.getOrDefault(at, List.of());
                    found = all.stream().max(Comparator.comparingInt(other -> shared(other, file))).orElse(null);
                }
                long line = unit.getLineMap().getLineNumber(positions.getStartPosition(unit, tree));
                IMPORTS.add(row(file, line, name.replaceAll("\\.\\*$", ""), found));
            }
        }
        System.out.println("{\"classes\": [" + String.join(",\n", CLASSES) + "], \"imports\": [" + String.join(",\n", IMPORTS) + "]}");
    }
}
