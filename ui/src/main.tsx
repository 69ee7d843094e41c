document.body.append("porch");
