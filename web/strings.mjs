import ts from "typescript";
import { readdirSync, readFileSync, statSync } from "node:fs";
import { join } from "node:path";
function* files(d){ for(const n of readdirSync(d).sort()){ const p=join(d,n); if(statSync(p).isDirectory()){ if(n!=="generated") yield* files(p);} else if(/\.tsx?$/.test(n)&&!/\.test\.ts/.test(n)) yield p; } }
const SKIP=new Set(["className","key","id","type","to","href","src","d","fill","viewBox","role","stroke","name","htmlFor","variant","size","transform","points"]);
for(const p of files("src")){
  const f=ts.createSourceFile(p,readFileSync(p,"utf8"),ts.ScriptTarget.Latest,true,p.endsWith("x")?ts.ScriptKind.TSX:ts.ScriptKind.TS);
  const out=[];
  const text=n=>ts.isTemplateExpression(n)?n.head.text+n.templateSpans.map(s=>`{${s.expression.getText(f).slice(0,40)}}${s.literal.text}`).join(""):n.text;
  const visit=n=>{
    if(ts.isImportDeclaration(n)||ts.isExportDeclaration(n)||ts.isLiteralTypeNode(n)) return;
    if(ts.isJsxAttribute(n)&&SKIP.has(n.name.getText(f))) return;
    if(ts.isJsxText(n)){ const t=n.text.replace(/\s+/g," ").trim(); if(/[A-Za-z]{2}/.test(t)) out.push([f.getLineAndCharacterOfPosition(n.getStart(f)).line+1,"T",t]); }
    else if(ts.isStringLiteral(n)||ts.isNoSubstitutionTemplateLiteral(n)||ts.isTemplateExpression(n)){
      const t=text(n); const par=n.parent;
      const cmp=ts.isBinaryExpression(par)&&/===|!==/.test(par.operatorToken.getText(f));
      if(!cmp&&!ts.isCaseClause(par)&&(/[A-Za-z] [A-Za-z{]|} [A-Za-z]/.test(t)||/^[A-Z][a-z]/.test(t))) out.push([f.getLineAndCharacterOfPosition(n.getStart(f)).line+1,"S",t]);
    }
    ts.forEachChild(n,visit);
  };
  visit(f);
  if(out.length){ console.log("## "+p.replace("src/","")); for(const [l,k,t] of out) console.log(`${l}${k} ${t.replace(/\n/g,"\\n")}`); }
}
